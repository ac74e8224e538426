using System.Globalization;
using System.Text.Json.Serialization;

namespace Bradymotus.Core.Time;

/// <summary>Frames per second as a fraction, so that 24000/1001 is exact.</summary>
[method: JsonConstructor]
public readonly record struct FrameRate(int Numerator, int Denominator = 1)
{
    /// <summary>24 frames a second, as film.</summary>
    public static FrameRate Film => new(24);

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

    public override string ToString() => Denominator == 1
        ? Numerator.ToString(CultureInfo.InvariantCulture)
        : string.Create(CultureInfo.InvariantCulture, $"{Numerator}/{Denominator}");
}
