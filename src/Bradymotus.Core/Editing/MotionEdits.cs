using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>The animation of one channel, taken along by the name of its object.</summary>
/// <param name="Name">Of the object.</param>
/// <param name="Path">Of the channel, without a layer.</param>
public sealed record MotionPart(string Name, string Path, Curve Curve);

/// <summary>
/// Puts animation that was taken from objects, of this shot or of another, onto objects: that of one object onto each of the targets, that of
/// several onto those of the same names. Keys that are there already between its first and its last give way.
/// </summary>
/// <param name="Parts">What was taken.</param>
/// <param name="First">The frame of the first key when it was taken.</param>
/// <param name="Frame">The frame that this comes to.</param>
/// <param name="Targets">The ids of the objects that it is for, with what hangs below them; none is all of the shot.</param>
/// <param name="Time">How much longer it takes, above 0.</param>
/// <param name="Size">How much further positions go.</param>
/// <param name="Mirror">Left for right: by the names of objects and channels, and mirrored across the X axis.</param>
/// <param name="Layer">The id of the layer that it goes into; null is below all layers.</param>
public sealed record PutMotion(
    ImmutableArray<MotionPart> Parts, double First, double Frame, IReadOnlyList<string> Targets, double Time = 1, double Size = 1, bool Mirror = false, string? Layer = null) : CurveEdit
{
    /// <summary>What the keys of objects make up, with what hangs below them.</summary>
    /// <exception cref="Refusal">They have no keys in the layer.</exception>
    public static PutMotion Of(Shot shot, IReadOnlyList<string> ids, string? layer)
    {
        var family = shot.Descendants(ids);
        var parts = shot.Nodes.Where(n => family.Contains(n.Id)).SelectMany(n => (n.Channels ?? ImmutableSortedDictionary<string, Channel>.Empty)
            .Where(c => c.Value.Curve is not null && new ChannelAddress(n.Id, c.Key).Layer == layer)
            .Select(c => new MotionPart(n.Name, new ChannelAddress(n.Id, c.Key).Base.Path, c.Value.Curve!))).ToImmutableArray();
        return parts.IsEmpty
            ? throw new Refusal("There is no animation to copy: select objects that have keys.")
            : new(parts, parts.Min(p => p.Curve.Keys[0].Frame), 0, []);
    }

    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(First, Frame, Time, Size);
        if (Parts.IsDefaultOrEmpty || !(Time > 0))
        {
            throw new Refusal("The animation is empty, or would take no time: copy some, and give it a length above 0.");
        }
        var fits = Fits(shot).ToList();
        if (fits.Count == 0)
        {
            var names = Parts.Select(p => p.Name).Distinct().ToList();
            throw new Refusal(names.Count == 1
                ? $"Nothing of the animation of “{names[0]}” fits here: select the object that shall have it."
                : $"Nothing of this animation fits here: it is of {string.Join(", ", names.Take(4).Select(n => $"“{n}”"))}{(names.Count > 4 ? $" and {names.Count - 4} more" : "")}; select what holds objects of these names.");
        }
        return ForChannels(shot, fits, f => f.Address, (curve, f) =>
        {
            var by = new KeyTransform(Frame - First, 0, First, Time, 0, f.Scale);
            by.Validate();
            var keys = f.Part.Curve.Keys.Select(by.Apply).ToImmutableArray();
            Extrapolation End(Extrapolation e) => e.Until is { } until ? e with { Until = by.Frame(until) } : e;
            if (curve is null)
            {
                return new Curve(keys, End(f.Part.Curve.Before), End(f.Part.Curve.After));
            }
            var (first, last) = (keys[0].Frame, keys[^1].Frame);
            return curve.WithKeys(CurveEdits.Merged([.. curve.Keys.Where(k => k.Frame < first || k.Frame > last)], keys.AsSpan()));
        }, cancel);
    }

    private IEnumerable<(ChannelAddress Address, MotionPart Part, double Scale)> Fits(Shot shot)
    {
        var isOne = Parts.All(p => p.Name == Parts[0].Name);
        var family = Targets.Count == 0 ? null : shot.Descendants(Targets);
        var byName = shot.Nodes.Where(n => family?.Contains(n.Id) ?? true).GroupBy(n => n.Name).ToDictionary(g => g.Key, g => g.First());
        foreach (var part in Parts)
        {
            var name = Mirror ? Mirroring.OtherName(part.Name) ?? part.Name : part.Name;
            var path = Mirror ? Mirroring.OtherName(part.Path) ?? part.Path : part.Path;
            var scale = (Mirror ? Mirroring.Sign(path) : 1) * (path.StartsWith("transform.translate", StringComparison.Ordinal) ? Size : 1);
            IEnumerable<Node?> nodes = isOne && Targets.Count > 0 ? Targets.Select(shot.FindNode) : [byName.GetValueOrDefault(name)];
            foreach (var node in nodes)
            {
                if (node is not null && ChannelCatalog.For(node).Find(path) is not null)
                {
                    var address = new ChannelAddress(node.Id, path).In(Layer);
                    if (!shot.Channel(address).Locked)
                    {
                        yield return (address, part, scale);
                    }
                }
            }
        }
    }

    /// <summary>What fits and what does not, a sentence each; the first says how much fits.</summary>
    public IReadOnlyList<string> Report(Shot shot)
    {
        var fits = Fits(shot).ToList();
        var left = Parts.Except(fits.Select(f => f.Part)).GroupBy(p => p.Name).ToList();
        return
        [
            $"{Count(fits.Count, "channel")} of {Count(fits.Select(f => f.Address.Owner).Distinct().Count(), "object")}",
            .. left.Select(g => $"“{g.Key}”: {string.Join(", ", g.Select(p => p.Path).Take(6))}{(g.Count() > 6 ? $" and {g.Count() - 6} more" : "")} found no place"),
        ];
    }

    private static string Count(int count, string one) => count == 1 ? $"1 {one}" : Plural(count, one);

    public override string Describe(Shot before) => $"Put animation on frame {CurveRules.Number(Frame)}";
}
