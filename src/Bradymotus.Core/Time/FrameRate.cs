using System.Globalization;
using System.Text.Json.Serialization;

namespace Bradymotus.Core.Time;

/// <summary>Frames per second as a fraction, so that 24000/1001 is exact.</summary>
[method: JsonConstructor]
public readonly record struct FrameRate(int Numerator, int Denominator = 1)
{
    /// <summary>24 frames a second: what a new shot has.</summary>
    public static FrameRate Default => new(24);

    /// <summary>The rate of so many frames a second: whole, over 1001 (23.976, 29.97, 59.94), or to the thousandth.</summary>
    /// <exception cref="Refusal">It is not between 1 and 1000.</exception>
    public static FrameRate Nearest(double framesPerSecond)
    {
        if (!(framesPerSecond is >= 1 and <= 1000))
        {
            throw new Refusal($"The frame rate {framesPerSecond.ToString(CultureInfo.InvariantCulture)} cannot be used: give a rate between 1 and 1000 frames a second.");
        }
        var whole = (int)Math.Round(framesPerSecond);
        if (framesPerSecond == whole)
        {
            return new(whole);
        }
        var ntsc = (int)Math.Ceiling(framesPerSecond);
        return Math.Abs(framesPerSecond - ntsc / 1.001) < 0.005 ? new(1000 * ntsc, 1001) : new((int)Math.Round(1000 * framesPerSecond), 1000);
    }

    /// <summary>As one number.</summary>
    [JsonIgnore]
    public double FramesPerSecond => (double)Numerator / Denominator;

    /// <summary>Seconds from frame 0 to <paramref name="frame"/>.</summary>
    public double Seconds(double frame) => frame * Denominator / Numerator;

    /// <summary>The (fractional) frame at a time in seconds.</summary>
    public double Frame(double seconds) => seconds * Numerator / Denominator;

    /// <exception cref="Refusal">The rate is not a rate between 1 and 1000 frames a second.</exception>
    public void Validate()
    {
        if (Numerator <= 0 || Denominator <= 0 || FramesPerSecond is < 1 or > 1000)
        {
            throw new Refusal($"The frame rate {Numerator}/{Denominator} cannot be used: give a rate between 1 and 1000 frames a second.");
        }
    }

    /// <inheritdoc/>
    public override string ToString() => Denominator == 1
        ? Numerator.ToString(CultureInfo.InvariantCulture)
        : string.Create(CultureInfo.InvariantCulture, $"{Numerator}/{Denominator}");
}
