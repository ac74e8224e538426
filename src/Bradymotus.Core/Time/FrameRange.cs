using System.Globalization;
using System.Text.Json.Serialization;

namespace Bradymotus.Core.Time;

/// <summary>Whole frames from <paramref name="First"/> to <paramref name="Last"/>, both included: 0–90 holds 91 frames.</summary>
public readonly record struct FrameRange(int First, int Last)
{
    /// <summary>The longest range that is taken, so that a slip of the finger does not fill a disk.</summary>
    public const int MostFrames = 1_000_000;

    /// <summary>How many frames there are, first and last included.</summary>
    [JsonIgnore]
    public int Count => Last - First + 1;

    /// <summary>Whether a frame lies within it, ends included.</summary>
    public bool Contains(double frame) => frame >= First && frame <= Last;

    /// <exception cref="Refusal">The range runs backwards or is too long.</exception>
    public void Validate(string what = "frame range")
    {
        if (Last < First)
        {
            throw new Refusal($"The {what} {First}–{Last} runs backwards: its last frame must not come before its first.");
        }
        if ((long)Last - First >= MostFrames)
        {
            throw new Refusal($"The {what} {First}–{Last} is longer than {MostFrames} frames: choose a shorter one.");
        }
    }

    /// <inheritdoc/>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{First}–{Last}");
}
