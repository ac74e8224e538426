using System.Collections.Immutable;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Text;
using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Shaping;

/// <summary>Mixes other shapes of the same mesh into it: each vertex goes along by the weights of its targets, which add up.</summary>
public sealed unsafe record MorphDeformer : Deformer
{
    private static readonly ConditionalWeakTable<string[], StrongBox<ImmutableArray<ChannelSpec>>> Specs = [];

    /// <summary>The names of the targets, in the order in which the mesh has them.</summary>
    public ImmutableArray<string> Targets { get => field.IsDefault ? [] : field; init; }

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Label => "Morph targets";

    /// <inheritdoc/>
    [JsonIgnore]
    public override ImmutableArray<ChannelSpec> Channels =>
        Specs.GetValue(ImmutableCollectionsMarshal.AsArray(Targets)!, targets => new(SpecsOf(targets))).Value;

    /// <summary>A weight of 1 is the whole target, −1 its opposite.</summary>
    public override string ChannelPath(string name) => $"morph.{name}";

    /// <inheritdoc/>
    public override bool IsIdle(ReadOnlySpan<double> values) => values.IndexOfAnyExcept(0) < 0;

    /// <inheritdoc/>
    public override void Apply(in Deformation shape)
    {
        var most = Math.Min(shape.Values.Length, shape.Rest.Targets.Length);
        // Targets of all vertices are added four at a time, so that the shape is read and written once for four.
        Span<int> whole = stackalloc int[4];
        var waiting = 0;
        var turned = false;
        for (var t = 0; t < most; t++)
        {
            var (target, weight) = (shape.Rest.Targets[t], (float)shape.Values[t]);
            if (weight == 0)
            {
                continue;
            }
            turned = true;
            if (target.Vertices is { } vertices)
            {
                AddFew(shape.Positions, vertices, target.Positions, weight);
                AddFew(shape.Normals, vertices, target.Normals, weight);
                continue;
            }
            whole[waiting++] = t;
            if (waiting == 4)
            {
                AddFour(shape, whole);
                waiting = 0;
            }
        }
        for (var i = 0; i < waiting; i++)
        {
            var (target, weight) = (shape.Rest.Targets[whole[i]], (float)shape.Values[whole[i]]);
            Add(shape.Positions, target.Positions, weight);
            Add(shape.Normals, target.Normals, weight);
        }
        if (turned)
        {
            Normalize(shape.Normals);
        }
    }

    internal override void Validate(string owner)
    {
        if (Targets.Length > 1000)
        {
            throw new Refusal($"“{owner}” has {Targets.Length} morph targets; at most 1000 are taken.");
        }
        foreach (var target in Targets)
        {
            if (target is null || target.Length > ShotRules.MostNameLength)
            {
                throw new Refusal($"A morph target of “{owner}” has no name, or one of more than {ShotRules.MostNameLength} characters: give each a shorter one.");
            }
        }
    }

    private static ImmutableArray<ChannelSpec> SpecsOf(string[] targets)
    {
        var taken = new HashSet<string>(StringComparer.Ordinal);
        return [.. targets.Select((name, i) =>
        {
            // What an address cannot hold, or gives a meaning to, is left out of the path; the label has it all.
            var path = new StringBuilder();
            foreach (var c in name)
            {
                path.Append(char.IsLetterOrDigit(c) || c is '-' or '_' ? c : '_');
            }
            var word = path.Length == 0 ? $"target{i}" : path.ToString();
            for (var n = 2; !taken.Add(word); n++)
            {
                word = $"{(path.Length == 0 ? "target" : path)}_{n}";
            }
            return new ChannelSpec(word, name.Length == 0 ? $"Target {i + 1}" : name, ChannelFamily.Shape, "", 0);
        })];
    }

    private static void AddFour(in Deformation shape, ReadOnlySpan<int> four)
    {
        var targets = shape.Rest.Targets;
        var (a, b, c, d) = (targets[four[0]], targets[four[1]], targets[four[2]], targets[four[3]]);
        ReadOnlySpan<float> weights = [(float)shape.Values[four[0]], (float)shape.Values[four[1]], (float)shape.Values[four[2]], (float)shape.Values[four[3]]];
        AddFour(shape.Positions, a.Positions, b.Positions, c.Positions, d.Positions, weights);
        AddFour(shape.Normals, a.Normals, b.Normals, c.Normals, d.Normals, weights);
    }

    private static void AddFour(Span<float> to, float[] a, float[] b, float[] c, float[] d, ReadOnlySpan<float> weights)
    {
        var (wa, wb, wc, wd) = (Vector128.Create(weights[0]), Vector128.Create(weights[1]), Vector128.Create(weights[2]), Vector128.Create(weights[3]));
        var count = Math.Min(to.Length, Math.Min(Math.Min(a.Length, b.Length), Math.Min(c.Length, d.Length)));
        fixed (float* t = to, pa = a, pb = b, pc = c, pd = d)
        {
            var i = 0;
            for (; i <= count - 4; i += 4)
            {
                (Vector128.Load(t + i) + Vector128.Load(pa + i) * wa + Vector128.Load(pb + i) * wb + Vector128.Load(pc + i) * wc + Vector128.Load(pd + i) * wd).Store(t + i);
            }
            for (; i < count; i++)
            {
                t[i] = t[i] + pa[i] * weights[0] + pb[i] * weights[1] + pc[i] * weights[2] + pd[i] * weights[3];
            }
        }
    }

    private static void Add(Span<float> to, float[] delta, float weight)
    {
        var w = Vector128.Create(weight);
        fixed (float* t = to, d = delta)
        {
            var i = 0;
            for (var end = Math.Min(to.Length, delta.Length) - 4; i <= end; i += 4)
            {
                (Vector128.Load(t + i) + Vector128.Load(d + i) * w).Store(t + i);
            }
            for (var end = Math.Min(to.Length, delta.Length); i < end; i++)
            {
                t[i] += d[i] * weight;
            }
        }
    }

    private static void AddFew(Span<float> to, int[] vertices, float[] delta, float weight)
    {
        fixed (float* all = to, few = delta)
        {
            var d = few;
            foreach (var v in vertices)
            {
                if (3 * v + 2 >= to.Length)
                {
                    return;
                }
                var t = all + 3 * v;
                t[0] += d[0] * weight;
                t[1] += d[1] * weight;
                t[2] += d[2] * weight;
                d += 3;
            }
        }
    }

    private static void Normalize(Span<float> normals)
    {
        fixed (float* first = normals)
        {
            for (float* n = first, end = first + normals.Length; n < end; n += 3)
            {
                var scale = 1 / MathF.Sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
                if (float.IsFinite(scale))
                {
                    n[0] *= scale;
                    n[1] *= scale;
                    n[2] *= scale;
                }
            }
        }
    }
}
