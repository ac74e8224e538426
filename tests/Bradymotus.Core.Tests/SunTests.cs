using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Tests;

/// <summary>The place of the sun against published examples.</summary>
public sealed class SunTests
{
    /// <summary>J. Meeus, "Astronomical Algorithms", example 25.a: 1992 October 13, 0 h.</summary>
    [Fact]
    public void Its_coordinates_are_those_of_the_worked_example()
    {
        var (ascension, declination) = SunPosition.Equatorial(2448908.5);
        Assert.Equal(198.38083, ascension, 0.0005);
        Assert.Equal(-7.78507, declination, 0.0005);
    }

    /// <summary>
    /// I. Reda, A. Andreas, "Solar position algorithm for solar radiation applications" (NREL/TP-560-34302), appendix A.5: 2003 October 17, 12:30:30 at
    /// UTC − 7 h, 39.742476° N, 105.1786° W; altitude without refraction.
    /// </summary>
    [Fact]
    public void It_stands_where_the_published_example_of_NREL_has_it()
    {
        var sun = SunPosition.At(39.742476, -105.1786, 2003, 10, 17, 12 + 30.5 / 60 + 7);
        Assert.Equal(39.872046, sun.Altitude, 0.01);
        Assert.Equal(194.340241, sun.Azimuth, 0.01);
    }

    /// <summary>At an equinox it rises in the east and sets in the west, and stands overhead at noon on the equator; facts of geography.</summary>
    [Fact]
    public void It_goes_round_as_everybody_knows()
    {
        Assert.Equal(90, SunPosition.At(0, 0, 2024, 3, 20, 6.1).Azimuth, 1.0);
        Assert.Equal(270, SunPosition.At(0, 0, 2024, 3, 20, 18.2).Azimuth, 1.0);
        Assert.InRange(SunPosition.At(0, 0, 2024, 3, 20, 12.12).Altitude, 89, 90);
        Assert.InRange(SunPosition.At(60, 10, 2024, 6, 21, 23.3).Altitude, -7, -6);
        // South of the tropics it is in the north at noon.
        Assert.Equal(0, Math.IEEERemainder(SunPosition.At(-40, 0, 2024, 12, 21, 11.97).Azimuth, 360), 2.0);
        Assert.Contains("no such place", Assert.Throws<Refusal>(() => SunPosition.At(91, 0, 2024, 1, 1, 0)).Message, StringComparison.Ordinal);
        Assert.Contains("no such date", Assert.Throws<Refusal>(() => SunPosition.At(0, 0, 2023, 2, 29, 0)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_sun_that_is_turned_so_shines_from_there()
    {
        var sun = new SunPosition(120, 35);
        var from = Affine.Rotation(sun.Rotation, RotationOrder.Xyz).Z;
        Assert.Equal(35, Math.Asin(from.Y) * 180 / Math.PI, 6);
        Assert.Equal(120, Math.Atan2(from.X, -from.Z) * 180 / Math.PI, 6);
    }
}

/// <summary>Daylight against the formulas of its paper, worked out by hand, and what everybody sees.</summary>
public sealed class PhysicalSkyTests
{
    private static Double3 At(double altitude, double azimuth)
    {
        var (s, c) = (Math.Sin(altitude * Math.PI / 180), Math.Cos(altitude * Math.PI / 180));
        return new(c * Math.Sin(azimuth * Math.PI / 180), s, -c * Math.Cos(azimuth * Math.PI / 180));
    }

    private static double Luminance(Double3 c) => (0.2126729 * c.X + 0.7151522 * c.Y + 0.0721750 * c.Z) / 0.03;

    /// <summary>
    /// Appendix A.2 for a turbidity of 2 and a sun 30° high, by hand: χ = (4/9 − 2/120)(π − 2π/3) = 0.44797, tan χ = 0.48055, Yz = 3.1196·tan χ + 1.9882 = 3.4873 kcd/m².
    /// </summary>
    [Fact]
    public void The_zenith_has_the_luminance_of_the_paper()
    {
        var sky = new PhysicalSky(At(30, 0), 2);
        Assert.Equal(3.4873, sky.Zenith, 0.0005);
        Assert.Equal(3.4873, Luminance(sky.Radiance(Double3.UnitY)), 0.02);
    }

    [Fact]
    public void It_is_blue_overhead_brightest_at_the_sun_and_red_where_the_sun_sets()
    {
        var noon = new PhysicalSky(At(60, 90), 3);
        var overhead = noon.Radiance(Double3.UnitY);
        Assert.True(overhead.Z > 1.3 * overhead.X);
        Assert.True(Luminance(noon.Radiance(At(60, 92))) > 2 * Luminance(noon.Radiance(At(60, 270))));
        var evening = new PhysicalSky(At(2, 90), 3);
        var low = evening.Radiance(At(3, 90));
        Assert.True(low.X > 1.3 * low.Z);
        Assert.True(Luminance(overhead) > 3 * Luminance(evening.Radiance(Double3.UnitY)));
        Assert.Equal(0, Luminance(new PhysicalSky(At(-13, 90), 3).Radiance(Double3.UnitY)));
    }

    [Fact]
    public void Whatever_the_sun_and_the_direction_the_light_is_a_number() => Laws.ForSeeds((dice, _) =>
    {
        var sky = new PhysicalSky(At(dice.NextDouble() * 180 - 90, dice.NextDouble() * 360), dice.NextDouble() * 14 - 2);
        foreach (var c in (ReadOnlySpan<Double3>)[sky.Radiance(At(dice.NextDouble() * 180 - 90, dice.NextDouble() * 360)), sky.Radiance(Double3.UnitY), sky.Radiance(-Double3.UnitY)])
        {
            Assert.True(double.IsFinite(c.X + c.Y + c.Z) && c.X >= 0 && c.Y >= 0 && c.Z >= 0 && c.X + c.Y + c.Z < 1000);
        }
    }, 500);
}
