using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>
/// A squash whose three scales do not multiply to 1. What grows, or changes its size for good, is no squash: a squash goes from a shape
/// to another and back.
/// </summary>
internal static class Volume
{
    private const string Path = "transform.scale.";

    /// <summary>So much may be lost or won at a key.</summary>
    private const double Tolerance = 0.05;

    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        var keyed = shot.Moved(node.Id, Path);
        if (keyed.Count == 0)
        {
            yield break;
        }
        double[] At(double frame) => [.. "xyz".Select(a => shot.At(new(node.Id, Path + a), frame))];
        var frames = keyed.SelectMany(c => c.Frames).Distinct().Order().ToList();
        var rest = At(frames[0]);
        var volume = rest[0] * rest[1] * rest[2];
        if (!(Math.Abs(volume) > 1e-12))
        {
            yield break;
        }
        var ratios = frames.Select(f => At(f).Zip(rest, (a, b) => a / b).ToArray()).ToList();
        bool IsRest(double[] r) => r.All(x => Math.Abs(x - 1) < 0.02);
        for (var i = 0; i < frames.Count; i++)
        {
            if (IsRest(ratios[i]))
            {
                continue;
            }
            var first = i;
            while (i + 1 < frames.Count && !IsRest(ratios[i + 1]))
            {
                i++;
            }
            if (i + 1 == frames.Count && first > 0 && keyed.Count > 1 && IsSquash(ratios[i]) && Math.Abs(ratios[i].Aggregate(1.0, (a, b) => a * b) - 1) <= Tolerance && Moves(shot, node, frames[i]))
            {
                yield return new Finding(FindingKind.Volume, [node.Id], [.. keyed.SelectMany(c => c.Addresses)], shot.Frame(frames[first]), shot.Last,
                    $"“{node.Name}” is squashed on frame {CurveRules.Number(frames[first])} and stays so, though it moves on: it is never given its shape back.", null);
            }
            // There and back again; and one axis alone is a bar that fills, a curtain or a breath, unless it strikes something.
            if (first == 0 || i + 1 == frames.Count || (keyed.Count == 1 && !shot.Contacts.Touches(node.Id, shot.Frame(frames[first]) - shot.First - 1, shot.Frame(frames[i]) - shot.First + 1)))
            {
                continue;
            }
            var wrong = Enumerable.Range(first, i - first + 1).Where(n => IsSquash(ratios[n]) && Math.Abs(ratios[n].Aggregate(1.0, (a, b) => a * b) - 1) > Tolerance).ToList();
            if (wrong.Count == 0)
            {
                continue;
            }
            var worst = wrong.MaxBy(n => Math.Abs(Math.Log(Math.Max(1e-9, Math.Abs(ratios[n].Aggregate(1.0, (a, b) => a * b))))));
            var product = ratios[worst].Aggregate(1.0, (a, b) => a * b);
            yield return new Finding(FindingKind.Volume, [node.Id], [.. keyed.SelectMany(c => c.Addresses)], shot.Frame(frames[wrong[0]]), shot.Frame(frames[wrong[^1]]),
                $"The squash of “{node.Name}” does not keep its volume: on frame {CurveRules.Number(frames[worst])} it is {Math.Round(100 * product)} % of what it was.",
                "Scale the other two axes so that the volume stays.")
            { FindFix = () => Mend(shot.Shot, node, keyed, rest, [.. wrong.Select(n => (frames[n], ratios[n]))]) };
        }
    }

    /// <summary>Whether an object goes anywhere after a frame.</summary>
    private static bool Moves(CheckedShot shot, Node node, double frame)
    {
        if (shot.Moved(node.Id, "transform.translate.").Count == 0)
        {
            return false;
        }
        var path = shot.Path(node.Id);
        var at = path[shot.Frame(frame) - shot.First];
        var farthest = path.Max(p => (p - at).Length);
        return farthest > 0 && path.Skip(shot.Frame(frame) - shot.First).Max(p => (p - at).Length) > 0.1 * farthest;
    }

    private static bool IsSquash(double[] r) => r.All(x => x > 0.01) && r.Max() / r.Min() > 1.05;

    /// <summary>The axis that is squashed most stays as it is; the other two share what is missing.</summary>
    private static Batch Mend(Shot shot, Node node, List<SeenChannel> keyed, double[] rest, (double Frame, double[] Ratio)[] wrong) => new("Keep the volume", [.. wrong.Select(w =>
    {
        var main = Enumerable.Range(0, 3).MaxBy(a => Math.Abs(Math.Log(w.Ratio[a])));
        var others = w.Ratio.Where((_, a) => a != main).Aggregate(1.0, (a, b) => a * b);
        var by = Math.Sqrt(1 / (w.Ratio[main] * others));
        List<ChannelValue> seen = [.. Enumerable.Range(0, 3).Where(a => a != main).Select(a => new ChannelValue(new(node.Id, Path + "xyz"[a]), rest[a] * w.Ratio[a] * by))];
        // In the layer that squashes it, the highest where there are several.
        var layer = keyed.SelectMany(c => c.KeyedOn(w.Frame)).Select(p => p.Address.Layer).OfType<string>().MaxBy(id => shot.Layers.IndexOf(shot.Layer(id)));
        return new SetKeys(w.Frame, [.. LayerPosing.Solve(shot, seen, w.Frame, layer).SelectMany(s => s.Own)]);
    })]);
}
