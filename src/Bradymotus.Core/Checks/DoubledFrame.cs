using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Checks;

/// <summary>The playback range of something that repeats shows the same frame twice: its first and its last are one picture.</summary>
internal static class DoubledFrame
{
    internal static IEnumerable<Finding> Of(CheckedShot shot)
    {
        var playing = shot.Shot.Playing;
        if (playing.Count < 3 || playing.Count > 100_000)
        {
            yield break;
        }
        if (Passes(shot, playing) is { } broken)
        {
            yield return broken;
            yield break;
        }
        var repeating = new List<SeenChannel>();
        foreach (var channel in shot.Seen.SelectMany(o => o))
        {
            var values = shot.Values(channel.Address, playing.First, playing.Count);
            var (low, high) = CheckedShot.Span(values);
            if (high - low <= 1e-6 * Math.Max(1, Math.Abs(high)))
            {
                continue;
            }
            var between = values[^1] - values[0];
            var isAngle = channel.Spec is { Family: ChannelFamily.Rotation, Unit: "°" };
            var turns = isAngle ? Math.Round(between / 360) : 0;
            if (Math.Abs(between - 360 * turns) > (isAngle ? 0.001 : 0.001 * (high - low)))
            {
                yield break;
            }
            // What rests where it begins and ends shows many frames alike, and does not hitch.
            var rests = Math.Abs(values[1] - values[0]) <= 1e-9 * (high - low) && Math.Abs(values[^1] - values[^2]) <= 1e-9 * (high - low);
            if (rests)
            {
                continue;
            }
            // One spin from rest to rest is no turntable.
            var isMove = Math.Max(Math.Abs(values[1] - values[0]), Math.Abs(values[^1] - values[^2])) < 0.5 * Math.Abs(between) / values.Length;
            if (channel.Parts.Any(p => Repeats(p.Curve)) || (turns != 0 && !isMove && channel.Frames[0] <= playing.First && channel.Frames[^1] >= playing.Last))
            {
                repeating.Add(channel);
            }
        }
        if (repeating.Count == 0)
        {
            yield break;
        }
        var whole = playing with { Last = playing.Last - 1 };
        yield return new Finding(FindingKind.DoubledFrame, [.. repeating.Select(c => c.Address.Owner).Where(o => shot.Shot.FindNode(o) is not null).Distinct()],
            [.. repeating.SelectMany(c => c.Addresses)],
            shot.Frame(playing.Last), shot.Frame(playing.Last),
            $"Frames {playing.First} and {playing.Last} are the same picture: played over and over it is shown twice, and hitches.",
            $"Play frames {whole.First} to {whole.Last}.")
        { Fix = new SetShot(PlayRange: new FrameRange(whole.First, whole.Last)) };
    }

    /// <summary>A range that was chosen for playing, of a shot in which everything repeats, and which is no whole number of passes.</summary>
    private static Finding? Passes(CheckedShot shot, FrameRange playing)
    {
        var parts = shot.Seen.SelectMany(o => o).SelectMany(c => c.Parts).ToList();
        if (shot.Shot.PlayRange is null || parts.Count == 0 || parts.Any(p => p.Curve is not { After.Kind: ExtrapolationKind.Loop, Keys.Length: > 1 }))
        {
            return null;
        }
        var longest = parts.MaxBy(p => p.Curve.Period)!;
        var period = longest.Curve.Period;
        // Both ends of one pass is a doubled frame, which is named as that.
        if (period < 2 || Math.Abs(playing.Count / period - Math.Round(playing.Count / period)) * period < 0.01 || Math.Abs((playing.Count - 1) % period) < 0.01
            || parts.Any(p => Math.Abs(period / p.Curve.Period - Math.Round(period / p.Curve.Period)) > 1e-6))
        {
            return null;
        }
        var passes = Math.Max(1, Math.Round(playing.Count / period));
        var last = (int)Math.Round(playing.First + passes * period) - 1;
        return new Finding(FindingKind.LoopSeam, [.. parts.Select(p => p.Address.Owner).Where(o => shot.Shot.FindNode(o) is not null).Distinct()], [.. parts.Select(p => p.Address.ToString())],
            shot.Frame(playing.Last), shot.Frame(playing.Last),
            $"Everything repeats every {CurveRules.Number(period)} frames, and {playing.Count} are played: it jumps from frame {playing.Last} to frame {playing.First}.",
            $"Play frames {playing.First} to {last}.")
        { Fix = new SetShot(PlayRange: new FrameRange(playing.First, last)) };
    }

    private static bool Repeats(Curve curve)
    {
        static bool Is(Extrapolation e) => e.Kind is ExtrapolationKind.Loop or ExtrapolationKind.LoopOffset or ExtrapolationKind.PingPong;
        return Is(curve.Before) || Is(curve.After);
    }
}
