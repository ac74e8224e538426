namespace Bradymotus.Core.Numerics;

/// <summary>The colour of what glows by its heat.</summary>
/// <remarks>
/// The Planckian locus by B. Kim et al., "Design of advanced color temperature control system for HDTV applications", Journal of the Korean Physical
/// Society 41 (2002): cubic splines in CIE 1931 x and y from 1667 K to 25,000 K. To linear sRGB by IEC 61966-2-1.
/// </remarks>
public static class BlackBody
{
    /// <summary>The chromaticity of a temperature; temperatures beyond the bounds are held to them.</summary>
    public static (double X, double Y) Chromaticity(double kelvin)
    {
        var t = Math.Clamp(kelvin, 1667, 25_000);
        var k = 1e3 / t;
        var x = t < 4000
            ? ((-0.2661239 * k - 0.2343589) * k + 0.8776956) * k + 0.179910
            : ((-3.0258469 * k + 2.1070379) * k + 0.2226347) * k + 0.240390;
        var y = t < 2222 ? ((-1.1063814 * x - 1.34811020) * x + 2.18555832) * x - 0.20219683
            : t < 4000 ? ((-0.9549476 * x - 1.37418593) * x + 2.09137015) * x - 0.16748867
            : ((3.0817580 * x - 5.87338670) * x + 3.75112997) * x - 0.37001483;
        return (x, y);
    }

    /// <summary>Linear red, green and blue of luminance 1; white (1, 1, 1) for 0, which stands for no temperature.</summary>
    public static Double3 Linear(double kelvin)
    {
        if (!(kelvin > 0))
        {
            return new(1, 1, 1);
        }
        var (x, y) = Chromaticity(kelvin);
        var (bigX, bigZ) = (x / y, (1 - x - y) / y);
        // Deep red lies outside of what sRGB can show.
        var r = Math.Max(0, 3.2404542 * bigX - 1.5371385 - 0.4985314 * bigZ);
        var g = Math.Max(0, -0.9692660 * bigX + 1.8760108 + 0.0415560 * bigZ);
        var b = Math.Max(0, 0.0556434 * bigX - 0.2040259 + 1.0572252 * bigZ);
        var luminance = 0.2126729 * r + 0.7151522 * g + 0.0721750 * b;
        return new(r / luminance, g / luminance, b / luminance);
    }
}
