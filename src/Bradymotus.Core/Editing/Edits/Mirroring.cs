using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Mirrors the pose of objects on a frame, left to right: what is called left gets what right has, and the other way round; what has no other side is mirrored in itself.</summary>
/// <param name="Nodes">The objects; the other side of one counts as named too.</param>
/// <param name="Frame">Where the pose is, and where the mirrored one is keyed.</param>
/// <param name="Layer">The id of the layer whose pose it is; null is that below all layers.</param>
public sealed record MirrorPose(IReadOnlyList<string> Nodes, double Frame, string? Layer = null) : CurveEdit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        CurveRules.Finite(Frame);
        var values = new Dictionary<ChannelAddress, double>();
        var done = new HashSet<string>();
        foreach (var id in Nodes)
        {
            var node = shot.Node(id);
            var other = Mirroring.Other(shot, node) ?? node;
            foreach (var (from, to) in new[] { (node, other), (other, node) })
            {
                if (done.Add(to.Id))
                {
                    Mirror(shot, from, to, values);
                }
            }
        }
        if (values.Count == 0)
        {
            throw new Refusal("There are no keys to mirror here: key the pose first.");
        }
        return new SetKeys(Frame, [.. values.Select(v => new ChannelValue(v.Key, v.Value))]).Apply(shot, cancel);
    }

    private void Mirror(Shot shot, Node from, Node to, Dictionary<ChannelAddress, double> values)
    {
        foreach (var spec in shot.ChannelsOf(to.Id))
        {
            var target = new ChannelAddress(to.Id, spec.Path).In(Layer);
            var path = ReferenceEquals(from, to) || shot.ChannelsOf(from.Id).Find(spec.Path) is null ? Mirroring.OtherName(spec.Path) ?? spec.Path : spec.Path;
            if (shot.ChannelsOf(from.Id).Find(path) is null)
            {
                continue;
            }
            var (a, b) = (shot.Channel(new ChannelAddress(from.Id, path).In(Layer)), shot.Channel(target));
            if ((a.Curve is null && b.Curve is null) || b.Locked)
            {
                continue;
            }
            var value = a.Evaluate(Frame) * Mirroring.Sign(spec.Path);
            values[target] = value;
        }
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Mirror the pose of frame {CurveRules.Number(Frame)}";
}

/// <summary>Which object is the other side of one, by name, and what becomes of its numbers.</summary>
public static class Mirroring
{
    private static readonly (string Left, string Right)[] Words = [("left", "right"), ("Left", "Right"), ("LEFT", "RIGHT")];

    /// <summary>The name with left for right or right for left, or with an L for an R that stands alone at its end or its beginning; null where it names no side.</summary>
    public static string? OtherName(string name)
    {
        foreach (var (left, right) in Words)
        {
            var (l, r) = (name.IndexOf(left, StringComparison.Ordinal), name.IndexOf(right, StringComparison.Ordinal));
            if (l >= 0 && (r < 0 || l < r))
            {
                return name[..l] + right + name[(l + left.Length)..];
            }
            if (r >= 0)
            {
                return name[..r] + left + name[(r + right.Length)..];
            }
        }
        if (name.Length > 2 && Side(name[^1]) is { } last && IsBreak(name[^2]))
        {
            return name[..^1] + last;
        }
        return name.Length > 2 && Side(name[0]) is { } first && IsBreak(name[1]) ? first + name[1..] : null;
    }

    private static char? Side(char c) => c switch { 'L' => 'R', 'R' => 'L', 'l' => 'r', 'r' => 'l', _ => null };

    private static bool IsBreak(char c) => c is '.' or '_' or '-' or ' ';

    /// <summary>The object on the other side; the one beside it first, where several are called so. Null where there is none.</summary>
    public static Node? Other(Shot shot, Node node)
    {
        if (OtherName(node.Name) is not { } name)
        {
            return null;
        }
        var named = shot.Nodes.Where(n => n.Name == name).ToList();
        return named.FirstOrDefault(n => n.Parent == node.Parent)
            ?? named.FirstOrDefault(n => shot.FindNode(n.Parent)?.Name is { } p && shot.FindNode(node.Parent)?.Name is { } q && (OtherName(q) ?? q) == p)
            ?? (named.Count == 1 ? named[0] : null);
    }

    /// <summary>−1 for the numbers that change their sign in a mirror that stands across the X axis.</summary>
    public static double Sign(string path) =>
        path is "transform.translate.x" or "transform.rotate.y" or "transform.rotate.z" or "transform.quaternion.y" or "transform.quaternion.z" or "transform.pivot.x" ? -1 : 1;
}
