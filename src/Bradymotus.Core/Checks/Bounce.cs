using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>
/// Bounces whose heights and times do not fit one gravity. A hop of height h that lasts T frames has the gravity 8·h/T²; those of one
/// object have to agree, give or take a frame, and the ratio of one height to the next stays the same.
/// </summary>
/// <remarks>h = g·(T/2)²/2; the ratio of heights is the square of the coefficient of restitution.</remarks>
internal static class Bounce
{
    private sealed record Hop(int From, int To, double Height, double Frames)
    {
        /// <summary>The fall to the first contact: half a hop.</summary>
        internal bool IsFall => Frames > To - From;
    }

    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        if (shot.Moved(node.Id, "transform.translate.y") is not [var channel] || shot.Count < 8)
        {
            yield break;
        }
        var path = shot.Path(node.Id);
        var hops = Hops(path.Select(p => p.Y).ToArray());
        if (hops.Count < 2)
        {
            yield break;
        }
        (string Sentence, string Mend, Func<Edit> Fix)? found = null;
        var worst = hops[^1];
        // A frame more or less is what whole frames leave open.
        var (least, most) = (hops.Max(h => 8 * h.Height / ((h.Frames + 1) * (h.Frames + 1))), hops.Min(h => h.Frames <= 1 ? double.PositiveInfinity : 8 * h.Height / ((h.Frames - 1) * (h.Frames - 1))));
        if (least > most)
        {
            var gravity = Median(hops.Select(Gravity));
            worst = hops.MaxBy(h => Math.Abs(Math.Log(Gravity(h) / gravity)))!;
            var right = Math.Sqrt(8 * worst.Height / gravity);
            // A fall is half a hop, and takes half its time.
            right = worst.IsFall ? right / 2 : right;
            var frames = Math.Max(worst.IsFall ? 1 : 2, (int)Math.Round(right));
            found = ($"The bounces of “{node.Name}” do not fit one gravity: the {(worst.IsFall ? "fall" : "hop")} from frame {shot.First + worst.From} to {shot.First + worst.To}, {CheckedShot.Number(worst.Height)} m high, would take {CheckedShot.Number(right)} frames as the others fall, and takes {worst.To - worst.From}.",
                $"Give it {frames} {(frames == 1 ? "frame" : "frames")}; what comes later follows.", () => Retimed(shot, node, [(worst.From, worst.From), (worst.To, worst.From + frames)]));
        }
        else if (hops.Count > 2)
        {
            var ratios = hops.Skip(1).Select((h, i) => h.Height / hops[i].Height).ToList();
            var usual = Median(ratios);
            var off = Enumerable.Range(0, ratios.Count).MaxBy(i => Math.Abs(Math.Log(ratios[i] / usual)));
            if (Math.Abs(Math.Log(ratios[off] / usual)) > 0.45)
            {
                worst = hops[off + 1];
                found = ($"The bounces of “{node.Name}” do not lose height evenly: the hop from frame {shot.First + worst.From} to {shot.First + worst.To} is {Math.Round(100 * ratios[off])} % as high as the one before, the others about {Math.Round(100 * usual)} %.",
                    $"Make this hop {Math.Round(100 * usual)} % as high as the one before, and it and those after it as much shorter as they are lower.", () => Lowered(shot, node, channel, hops, off + 1, usual / ratios[off]));
            }
        }
        if (found is var (sentence, mend, fix))
        {
            // Where layers do not simply add up, what is done to each does not do the same to all.
            yield return new Finding(FindingKind.Bounce, [node.Id], [.. channel.Addresses], shot.First + worst.From, shot.First + worst.To, sentence, channel.IsSum ? mend : null)
            { Fix = channel.IsSum ? fix() : null };
        }
    }

    /// <summary>Everything that moves with an object comes at other times: squashes stay with their contacts.</summary>
    /// <param name="times">When something is, counted from the first frame, and when it shall be, rising.</param>
    private static Retime Retimed(CheckedShot shot, Node node, IEnumerable<(int Old, int New)> times)
    {
        var family = shot.Shot.Descendants([node.Id]);
        return new([.. shot.Shot.AllSetChannels().Where(c => family.Contains(c.Address.Owner) && c.Channel.Heard is not null).Select(c => c.Address)],
            new Curve([.. times.Select(t => new Key(shot.First + t.New, shot.First + t.Old, Segment.Linear))]));
    }

    /// <summary>Makes a hop and all after it lower by a factor, and as much shorter as gravity has it.</summary>
    private static Batch Lowered(CheckedShot shot, Node node, SeenChannel channel, List<Hop> hops, int from, double factor)
    {
        var start = (double)(shot.First + hops[from].From);
        var end = (double)(shot.First + hops[^1].To);
        var edits = new List<Edit>();
        foreach (var (address, _, curve, _, _) in channel.Parts)
        {
            var keys = curve.Keys.Where(k => k.Frame > start + 0.5 && k.Frame < end + 0.5).Select(k => new KeyAddress(address, k.Frame)).ToList();
            if (keys.Count > 0)
            {
                edits.Add(new TransformKeys(keys, new KeyTransform(ValuePivot: curve.Evaluate(start), ValueScale: factor)));
            }
            if (curve.KeyAt(start) is { Out: FreeHandle handle } key)
            {
                // Of the contact itself only the way out is another.
                edits.Add(new SetHandle(new(address, key.Frame), KeySide.Out, handle with { Value = handle.Value * factor }, false));
            }
        }
        var times = new List<(int Old, int New)> { (hops[from].From, hops[from].From) };
        foreach (var hop in hops.Skip(from))
        {
            times.Add((hop.To, times[^1].New + Math.Max(2, (int)Math.Round(hop.Frames * Math.Sqrt(factor)))));
        }
        edits.Add(Retimed(shot, node, times));
        return new Batch("Even out the bounces", edits);
    }

    private static double Gravity(Hop hop) => 8 * hop.Height / (hop.Frames * hop.Frames);

    private static double Median(IEnumerable<double> values)
    {
        var sorted = values.Order().ToArray();
        return sorted[sorted.Length / 2];
    }

    /// <summary>From contact to contact; the fall to the first contact counts as a hop of twice its time.</summary>
    private static List<Hop> Hops(double[] heights)
    {
        var (low, high) = CheckedShot.Span(heights);
        var contacts = new List<int>();
        for (var i = 2; i + 2 < heights.Length; i++)
        {
            var (down, up) = (heights[i] - heights[i - 1], heights[i + 1] - heights[i]);
            // A corner: it comes fast and goes fast, and is not just about to turn.
            if (down < 0 && up > 0 && up - down > 3 * Math.Max(Math.Abs(heights[i - 1] - heights[i - 2] - down), Math.Abs(heights[i + 2] - heights[i + 1] - up)) && up - down > 0.01 * (high - low))
            {
                contacts.Add(i);
            }
        }
        var hops = new List<Hop>();
        for (var c = 0; c + 1 < contacts.Count; c++)
        {
            var (from, to) = (contacts[c], contacts[c + 1]);
            var top = heights[from..(to + 1)].Max();
            var height = top - (heights[from] + heights[to]) / 2;
            if (Math.Abs(heights[from] - heights[to]) > 0.1 * (high - low) || height <= 0)
            {
                return [];
            }
            hops.Add(new(from, to, height, to - from));
        }
        if (contacts.Count > 0)
        {
            var first = contacts[0];
            var top = first;
            while (top > 0 && heights[top - 1] >= heights[top] && heights[top - 1] > heights[top] + 1e-9)
            {
                top--;
            }
            // Only what falls from rest: before it stands still or rises.
            if (heights[top] - heights[first] > 0.05 * (high - low) && (top == 0 || heights[top - 1] <= heights[top] + 1e-9))
            {
                hops.Insert(0, new(top, first, heights[top] - heights[first], 2 * (first - top)));
            }
        }
        return hops;
    }
}
