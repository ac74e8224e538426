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
            if (channel.Parts.Any(p => Repeats(p.Curve)) || (turns != 0 && channel.Frames[0] <= playing.First && channel.Frames[^1] >= playing.Last))
            {
                repeating.Add(channel);
            }
        }
        if (repeating.Count == 0)
        {
            yield break;
        }
        var whole = playing with { Last = playing.Last - 1 };
        yield return new Finding(FindingKind.DoubledFrame, [.. repeating.Select(c => c.Address.Owner).Where(o => shot.Shot.FindNode(o) is not null).Distinct()], [.. repeating.SelectMany(c => c.Addresses)],
            shot.Frame(playing.Last), shot.Frame(playing.Last),
            $"Frames {playing.First} and {playing.Last} are the same picture: played over and over it is shown twice, and hitches.",
            $"Play frames {whole.First} to {whole.Last}.")
        { Fix = new SetShot(PlayRange: new FrameRange(whole.First, whole.Last)) };
    }

    private static bool Repeats(Curve curve)
    {
        static bool Is(Extrapolation e) => e.Kind is ExtrapolationKind.Loop or ExtrapolationKind.LoopOffset or ExtrapolationKind.PingPong;
        return Is(curve.Before) || Is(curve.After);
    }
}
