using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>
/// Bounces whose heights and times do not fit one gravity. A hop that rises by h₁, falls by h₂ and lasts T frames has the gravity
/// (√(2h₁) + √(2h₂))² / T², which is 8·h/T² from floor to floor; those of one object have to agree, give or take a frame, and the ratio of one
/// height to the next stays the same.
/// </summary>
/// <remarks>h = g·t²/2; the ratio of heights is the square of the coefficient of restitution.</remarks>
internal static class Bounce
{
    /// <summary>A hop that is farther from its parabola than this part of its height is driven, as a dribbled ball or a piston is.</summary>
    private const double MostOff = 0.15;

    /// <param name="From">When it leaves the ground, in frames from the first.</param>
    /// <param name="To">When it comes to the ground.</param>
    /// <param name="Height">How high it goes above where it comes down, in metres.</param>
    /// <param name="Roots">√(2h₁) + √(2h₂); of a fall the second alone.</param>
    /// <param name="IsFree">Nothing but gravity moves it.</param>
    private sealed record Hop(double From, double To, double Height, double Roots, bool IsFall, bool IsFree)
    {
        internal double Frames => To - From;

        internal double Gravity => Roots * Roots / (Frames * Frames);
    }

    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        if (shot.Moved(node.Id, "transform.translate.y") is not [var channel] || shot.Count < 8)
        {
            yield break;
        }
        var all = Hops(shot, channel, shot.Path(node.Id).Select(p => p.Y).ToArray());
        var hops = all.Where(h => h.IsFree).ToList();
        (string Sentence, string Mend, Func<Edit> Fix)? found = null;
        // Where what follows is thrown back by gravity, what comes down at an even speed does not fall.
        if (all is [{ IsFall: true, IsFree: false } lowered, .. var rest] && rest.Count > 0 && rest.All(h => h.IsFree))
        {
            var right = lowered.Roots / Math.Sqrt(Median(rest.Select(h => h.Gravity)));
            var (from, to) = (shot.First + lowered.From, shot.First + lowered.To);
            yield return new Finding(FindingKind.Bounce, [node.Id], [.. channel.Addresses], shot.Frame(from), shot.Frame(to),
                $"“{node.Name}” does not gather speed as it falls from frame {CurveRules.Number(from)} to {CurveRules.Number(to)}: as it bounces, the fall of {CheckedShot.Number(lowered.Height)} m would take {CheckedShot.Number(right)} frames, slow first and fast at the end.", null);
            yield break;
        }
        if (hops.Count < 2)
        {
            yield break;
        }
        var worst = hops[^1];
        // A frame more or less is what whole frames leave open; of a fall, which is half a hop, half of one.
        static double With(Hop h, double more) => h.Frames + more * (h.IsFall ? 0.5 : 1) is > 0 and var frames ? h.Roots * h.Roots / (frames * frames) : double.PositiveInfinity;
        var (least, most) = (hops.Max(h => With(h, 1)), hops.Min(h => With(h, -1)));
        if (least > most)
        {
            var gravity = Median(hops.Select(h => h.Gravity));
            worst = hops.MaxBy(h => Math.Abs(Math.Log(h.Gravity / gravity)))!;
            var right = worst.Roots / Math.Sqrt(gravity);
            var frames = Math.Max(worst.IsFall ? 1 : 2, (int)Math.Round(right));
            found = ($"The bounces of “{node.Name}” do not fit one gravity: the {(worst.IsFall ? "fall" : "hop")} from frame {CurveRules.Number(shot.First + worst.From)} to {CurveRules.Number(shot.First + worst.To)}, {CheckedShot.Number(worst.Height)} m high, would take {CheckedShot.Number(right)} frames as the others fall, and takes {CurveRules.Number(worst.Frames)}.",
                $"Give it {frames} {(frames == 1 ? "frame" : "frames")}; what comes later follows.", () => Retimed(shot, node, [(worst.From, worst.From), (worst.To, worst.From + frames)]));
        }
        else if (hops.Count > 2 && hops.Count == all.Count && IsLevel(shot, channel, hops))
        {
            var ratios = hops.Skip(1).Select((h, i) => h.Height / hops[i].Height).ToList();
            var usual = Median(ratios);
            var off = Enumerable.Range(0, ratios.Count).MaxBy(i => Math.Abs(Math.Log(ratios[i] / usual)));
            if (Math.Abs(Math.Log(ratios[off] / usual)) > 0.45)
            {
                worst = hops[off + 1];
                found = ($"The bounces of “{node.Name}” do not lose height evenly: the hop from frame {CurveRules.Number(shot.First + worst.From)} to {CurveRules.Number(shot.First + worst.To)} is {Math.Round(100 * ratios[off])} % as high as the one before, the others about {Math.Round(100 * usual)} %.",
                    $"Make this hop {Math.Round(100 * usual)} % as high as the one before, and it and those after it as much shorter as they are lower.", () =>
                        Lowered(shot, node, channel, hops, off + 1, usual / ratios[off]));
            }
        }
        if (found is var (sentence, mend, fix))
        {
            // Where layers do not simply add up, what is done to each does not do the same to all.
            yield return new Finding(FindingKind.Bounce, [node.Id], [.. channel.Addresses], shot.Frame(shot.First + worst.From), shot.Frame(shot.First + worst.To),
                sentence, channel.IsSum ? mend : null)
            { Fix = channel.IsSum ? fix() : null };
        }
    }

    /// <summary>Everything that moves with an object comes at other times: squashes stay with their contacts.</summary>
    /// <param name="times">When something is, counted from the first frame, and when it shall be, rising.</param>
    private static Retime Retimed(CheckedShot shot, Node node, IEnumerable<(double Old, double New)> times)
    {
        var family = shot.Shot.Descendants([node.Id]);
        return new([.. shot.Shot.AllSetChannels().Where(c => family.Contains(c.Address.Owner) && c.Channel.ActiveCurve is not null).Select(c => c.Address)],
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
        var times = new List<(double Old, double New)> { (hops[from].From, hops[from].From) };
        foreach (var hop in hops.Skip(from))
        {
            times.Add((hop.To, times[^1].New + Math.Max(2, Math.Round(hop.Frames * Math.Sqrt(factor)))));
        }
        edits.Add(Retimed(shot, node, times));
        return new Batch("Even out the bounces", edits);
    }

    private static double Median(IEnumerable<double> values)
    {
        var sorted = values.Order().ToArray();
        return sorted[sorted.Length / 2];
    }

    /// <summary>Whether all hops begin and end at one height, give or take a tenth of the highest.</summary>
    private static bool IsLevel(CheckedShot shot, SeenChannel channel, List<Hop> hops)
    {
        var floors = hops.Select(h => channel.At(shot.First + h.To)).ToList();
        return floors.Max() - floors.Min() <= 0.1 * hops.Max(h => h.Height);
    }

    /// <summary>From contact to contact, the fall to the first before them.</summary>
    private static List<Hop> Hops(CheckedShot shot, SeenChannel channel, double[] heights)
    {
        double At(double time) => channel.At(shot.First + time);
        var contacts = Contacts(shot, channel, heights);
        var hops = new List<Hop>();
        for (var c = 0; c + 1 < contacts.Count; c++)
        {
            var (from, to) = (contacts[c], contacts[c + 1]);
            var top = channel.Between(shot.First + from, shot.First + to, 65).Max();
            var (rise, fall) = (top - At(from), top - At(to));
            // Rolling on, or going up a step: no hop.
            if (rise <= 0 || fall <= 0)
            {
                return [];
            }
            var (up, down) = (Math.Sqrt(2 * rise), Math.Sqrt(2 * fall));
            var gravity = (up + down) * (up + down) / ((to - from) * (to - from));
            hops.Add(new(from, to, fall, up + down, false, IsFree(t => At(from) + up * Math.Sqrt(gravity) * t - gravity * t * t / 2)));

            bool IsFree(Func<double, double> parabola) =>
                Enumerable.Range(1, 7).All(i => (to - from) * i / 8 is var t && Math.Abs(At(from + t) - parabola(t)) <= MostOff * Math.Max(rise, fall));
        }
        if (contacts.Count > 0)
        {
            var first = contacts[0];
            var top = (int)first;
            while (top > 0 && heights[top - 1] > heights[top] + 1e-9)
            {
                top--;
            }
            var (low, high) = CheckedShot.Span(heights);
            var fall = At(top) - At(first);
            // Only what falls from rest: before it stands still or rises.
            if (fall > 0.05 * (high - low) && first > top)
            {
                var gravity = 2 * fall / ((first - top) * (first - top));
                var isFree = Enumerable.Range(1, 7).All(i => (first - top) * i / 8 is var t && Math.Abs(At(top + t) - (At(top) - gravity * t * t / 2)) <= MostOff * fall);
                hops.Insert(0, new(top, first, fall, Math.Sqrt(2 * fall), true, isFree));
            }
        }
        return hops;
    }

    /// <summary>When it strikes the ground, in frames from the first: it comes down fast and goes up fast.</summary>
    private static List<double> Contacts(CheckedShot shot, SeenChannel channel, double[] heights)
    {
        const double Instant = 0.02;
        var keys = channel.Frames.Where(f => f > shot.First && f < shot.Last).ToList();
        var (low, high) = CheckedShot.Span(heights);
        if (keys.Count > 0 && keys.Count * 3 <= shot.Count)
        {
            // Keyed by hand: a contact is a key, on a whole frame or between two.
            return [.. keys.Where(f => channel.At(f) is var at && (at - channel.At(f - Instant)) / Instant is var down && (channel.At(f + Instant) - at) / Instant is var up
                && down < 0 && up > 0 && up - down > 0.01 * (high - low)).Select(f => f - shot.First)];
        }
        var contacts = new List<double>();
        for (var i = 2; i + 2 < heights.Length; i++)
        {
            var (down, up) = (heights[i] - heights[i - 1], heights[i + 1] - heights[i]);
            // A corner: it comes fast and goes fast, and is not just about to turn.
            if (down < 0 && up > 0 && up - down > 3 * Math.Max(Math.Abs(heights[i - 1] - heights[i - 2] - down), Math.Abs(heights[i + 2] - heights[i + 1] - up)) && up - down > 0.01 * (high - low))
            {
                contacts.Add(i);
            }
        }
        return contacts;
    }
}
