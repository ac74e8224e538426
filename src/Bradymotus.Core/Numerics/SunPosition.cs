namespace Bradymotus.Core.Numerics;

/// <summary>Where the sun stands.</summary>
/// <param name="Azimuth">Degrees from north by east.</param>
/// <param name="Altitude">Degrees above the horizon, without refraction.</param>
public readonly record struct SunPosition(double Azimuth, double Altitude)
{
    /// <summary>The sun over a place at a moment, to a hundredth of a degree between 1950 and 2050.</summary>
    /// <remarks>J. Meeus, "Astronomical Algorithms", second edition (1998): chapters 7, 12, 13 and the solar coordinates of low accuracy of chapter 25.</remarks>
    /// <param name="latitude">Degrees, north above 0.</param>
    /// <param name="longitude">Degrees, east above 0.</param>
    /// <param name="hours">Of universal time on the day, fractions included; may be beyond the day.</param>
    /// <exception cref="Refusal">The place or the date is none.</exception>
    public static SunPosition At(double latitude, double longitude, int year, int month, int day, double hours)
    {
        if (!(Math.Abs(latitude) <= 90) || !(Math.Abs(longitude) <= 180))
        {
            throw new Refusal("There is no such place: give a latitude from -90 to 90 and a longitude from -180 to 180 degrees.");
        }
        if (year is < 1 or > 9999 || month is < 1 or > 12 || day < 1 || day > DateTime.DaysInMonth(year, month) || !(Math.Abs(hours) <= 100))
        {
            throw new Refusal("There is no such date: give a year from 1 to 9999, a month, a day and a time.");
        }
        var julian = JulianDay(year, month, day) + hours / 24;
        var (ascension, declination) = Equatorial(julian);
        var t = (julian - 2451545) / 36525;
        var sidereal = 280.46061837 + 360.98564736629 * (julian - 2451545) + 0.000387933 * t * t;
        var (sinH, cosH) = Real.SinCosDegrees(sidereal + longitude - ascension);
        var (sinD, cosD) = Real.SinCosDegrees(declination);
        var (sinL, cosL) = Real.SinCosDegrees(latitude);
        var altitude = Real.Asin(sinL * sinD + cosL * cosD * cosH) * (180 / Math.PI);
        var azimuth = Real.Atan2Degrees(sinH * cosD, cosH * cosD * sinL - sinD * cosL) + 180;
        return new(azimuth % 360, altitude);
    }

    /// <summary>Apparent right ascension and declination of the sun, in degrees.</summary>
    /// <param name="julian">The Julian day, fractions included.</param>
    public static (double Ascension, double Declination) Equatorial(double julian)
    {
        var t = (julian - 2451545) / 36525;
        var anomaly = 357.52911 + (35999.05029 - 0.0001537 * t) * t;
        var centre = (1.914602 - (0.004817 + 0.000014 * t) * t) * Real.SinDegrees(anomaly)
            + (0.019993 - 0.000101 * t) * Real.SinDegrees(2 * anomaly) + 0.000289 * Real.SinDegrees(3 * anomaly);
        var node = 125.04 - 1934.136 * t;
        var longitude = 280.46646 + (36000.76983 + 0.0003032 * t) * t + centre - 0.00569 - 0.00478 * Real.SinDegrees(node);
        var obliquity = 23.4392911 - (0.0130042 + 0.00000016 * t) * t + 0.00256 * Real.CosDegrees(node);
        var (sin, cos) = Real.SinCosDegrees(longitude);
        var ascension = Real.Atan2Degrees(Real.CosDegrees(obliquity) * sin, cos);
        return ((ascension + 360) % 360, Real.Asin(Real.SinDegrees(obliquity) * sin) * (180 / Math.PI));
    }

    /// <summary>The rotation (XYZ) of a sun that shines from there: north is −Z, east +X.</summary>
    public Double3 Rotation => new(-Altitude, 180 - Azimuth, 0);

    /// <summary>The Julian day at 0 h universal time, Gregorian calendar (chapter 7).</summary>
    private static double JulianDay(int year, int month, int day)
    {
        var (y, m) = month <= 2 ? (year - 1, month + 12) : (year, month);
        var century = y / 100;
        return Math.Floor(365.25 * (y + 4716)) + Math.Floor(30.6001 * (m + 1)) + day + (2 - century + century / 4) - 1524.5;
    }
}
