using System.Globalization;
using System.Text.RegularExpressions;
using Bradymotus.Core;

namespace Bradymotus.Server.Rendering;

/// <summary>The pictures of a film, one for each of its frames.</summary>
/// <param name="Pictures">The file of each frame.</param>
/// <param name="Frames">The frame of the shot that each is of.</param>
/// <param name="AreNumbered">The frames are those of the shot; else they only count.</param>
/// <param name="Held">So many frames are shown by the picture before, since their own is missing.</param>
public sealed partial record FilmFrames(IReadOnlyList<string> Pictures, IReadOnlyList<int> Frames, int Held, bool AreNumbered = true)
{
    /// <summary>
    /// Every frame from the first to the last: those that a step leaves out, and those whose picture is missing, are shown by the picture before, so that the
    /// film lasts as long as its range at its rate. What is missing at the beginning is shown by the first picture that there is.
    /// </summary>
    /// <param name="ordered">The frames that there should be, rising.</param>
    /// <param name="last">The last frame of the range, which a step may leave out.</param>
    /// <param name="fileOf">The file of a frame; null where it is missing.</param>
    /// <exception cref="Refusal">There is no picture at all.</exception>
    public static FilmFrames Of(IReadOnlyList<int> ordered, int last, Func<int, string?> fileOf)
    {
        var files = ordered.ToDictionary(f => f, fileOf);
        var shown = files.OrderBy(f => f.Key).Select(f => f.Value).FirstOrDefault(f => f is not null)
            ?? throw new Refusal("There is no finished frame to make a film of: wait for the first one.");
        var (pictures, frames) = (new List<string>(), new List<int>());
        for (var frame = ordered[0]; frame <= last; frame++)
        {
            shown = files.GetValueOrDefault(frame) ?? shown;
            pictures.Add(shown);
            frames.Add(frame);
        }
        return new(pictures, frames, files.Values.Count(f => f is null));
    }

    /// <summary>The same several times, one after the other.</summary>
    public FilmFrames Times(int times) => new([.. Enumerable.Repeat(Pictures, times).SelectMany(p => p)], [.. Enumerable.Repeat(Frames, times).SelectMany(f => f)], Held, AreNumbered);

    /// <summary>
    /// Pictures by the numbers at the ends of their names, negative ones too; a number that is missing between two is held. Of every second frame, say, each
    /// is shown for as many. Without numbers in all of them they come in the order of their names.
    /// </summary>
    /// <exception cref="Refusal">Two are of one frame, or they lie too far apart.</exception>
    public static FilmFrames OfFiles(IReadOnlyList<string> files)
    {
        var numbered = files.Select(f => (File: f, Match: Numbered().Match(Path.GetFileName(f)))).ToList();
        if (numbered.Exists(n => !n.Match.Success))
        {
            var ordered = files.Order(StringComparer.Ordinal).ToList();
            return new(ordered, [.. Enumerable.Range(0, ordered.Count)], 0, AreNumbered: false);
        }
        var byFrame = new SortedDictionary<int, string>();
        foreach (var (file, match) in numbered)
        {
            var frame = int.Parse(match.Groups["frame"].ValueSpan, CultureInfo.InvariantCulture);
            if (!byFrame.TryAdd(frame, file))
            {
                throw new Refusal($"{Path.GetFileName(byFrame[frame])} and {Path.GetFileName(file)} are both frame {frame}: a folder is to hold one sequence.");
            }
        }
        var frames = byFrame.Keys.ToList();
        // The step is the distance that all keep; where they keep none, what is missing is missing.
        var step = frames.Zip(frames.Skip(1), (a, b) => b - a).Aggregate(0, (a, b) => (int)System.Numerics.BigInteger.GreatestCommonDivisor(a, b));
        var due = Enumerable.Range(0, frames.Count < 2 ? 1 : (frames[^1] - frames[0]) / step + 1).Select(i => frames[0] + i * step).ToList();
        if (due.Count > 1_000_000)
        {
            throw new Refusal($"The pictures go from frame {frames[0]} to {frames[^1]}, which is too long for a film: check their numbers.");
        }
        // The last one is shown as long as the others.
        return Of(due, frames[^1] + Math.Max(1, step) - 1, byFrame.GetValueOrDefault);
    }

    [GeneratedRegex(@"(?<frame>(?<![0-9A-Za-z])-[0-9]{1,9}|[0-9]{1,9})\.png$", RegexOptions.IgnoreCase)]
    private static partial Regex Numbered();
}
