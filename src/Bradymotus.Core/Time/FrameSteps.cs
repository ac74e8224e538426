using System.Globalization;
using System.Text.RegularExpressions;

namespace Bradymotus.Core.Time;

/// <summary>The frames of a render: a range and a step, written <c>A-B</c>, <c>A-B/STEP</c> or <c>A</c>.</summary>
public readonly partial record struct FrameSteps(FrameRange Range, int Step = 1)
{
    /// <summary>How many frames there are.</summary>
    public int Count => (Range.Count - 1) / Step + 1;

    /// <summary>The frames, from the first.</summary>
    public IEnumerable<int> Frames()
    {
        for (var frame = (long)Range.First; frame <= Range.Last; frame += Step)
        {
            yield return (int)frame;
        }
    }

    /// <exception cref="Refusal">The text is not a range, runs backwards, or has a step below 1.</exception>
    public static FrameSteps Parse(string text)
    {
        var match = Pattern().Match(text ?? "");
        if (!match.Success || !TryInt(match, "first", out var first))
        {
            throw new Refusal($"The frames “{text}” cannot be read: write them as 0-90, 0-90/2 or 12.");
        }
        var last = first;
        if (match.Groups["last"].Success && !TryInt(match, "last", out last))
        {
            throw new Refusal($"The frames “{text}” cannot be read: the last frame is too large.");
        }
        var step = 1;
        if (match.Groups["step"].Success && (!TryInt(match, "step", out step) || step < 1))
        {
            throw new Refusal($"The frames “{text}” cannot be read: the step after “/” must be at least 1.");
        }
        var range = new FrameRange(first, last);
        range.Validate();
        return new FrameSteps(range, step);
    }

    /// <inheritdoc/>
    public override string ToString() => Step == 1
        ? string.Create(CultureInfo.InvariantCulture, $"{Range.First}-{Range.Last}")
        : string.Create(CultureInfo.InvariantCulture, $"{Range.First}-{Range.Last}/{Step}");

    private static bool TryInt(Match match, string group, out int value) =>
        int.TryParse(match.Groups[group].Value, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out value);

    [GeneratedRegex(@"^\s*(?<first>-?\d+)\s*(?:[-–]\s*(?<last>-?\d+)\s*)?(?:/\s*(?<step>\d+)\s*)?$")]
    private static partial Regex Pattern();
}
