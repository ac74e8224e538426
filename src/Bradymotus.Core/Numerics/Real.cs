namespace Bradymotus.Core.Numerics;

/// <summary>
/// Elementary functions that give the same bits on every machine and in every browser.
/// The functions of the C library behind <see cref="Math"/> differ in the last place between platforms;
/// these use only +, −, ×, ÷ and √, which IEEE 754 fixes exactly.
/// </summary>
/// <remarks>Sine, cosine and arc tangent follow the published fdlibm kernels (Sun Microsystems, 1993); error below one unit in the last place.</remarks>
public static class Real
{
    private const double DegreesToRadians = Math.PI / 180;

    /// <summary>Sine of an angle in degrees; exact at every multiple of 90.</summary>
    public static double SinDegrees(double degrees) => SinCosDegrees(degrees).Sin;

    /// <summary>Cosine of an angle in degrees; exact at every multiple of 90.</summary>
    public static double CosDegrees(double degrees) => SinCosDegrees(degrees).Cos;

    /// <summary>Tangent of an angle in degrees.</summary>
    public static double TanDegrees(double degrees)
    {
        var (sin, cos) = SinCosDegrees(degrees);
        return sin / cos;
    }

    /// <summary>Sine and cosine of an angle in degrees. The reduction to a quarter turn is exact, so 360° is 0°.</summary>
    public static (double Sin, double Cos) SinCosDegrees(double degrees)
    {
        // Most angles of most objects.
        if (degrees == 0)
        {
            return (0, 1);
        }
        // The remainder is a slow call, and changes nothing within one turn.
        var turn = Math.Abs(degrees) < 360 ? degrees : degrees % 360;
        var quarter = Math.Floor(turn / 90 + 0.5);
        var rest = (turn - quarter * 90) * DegreesToRadians;
        return InQuadrant((int)quarter, rest, 0);
    }

    /// <summary>Sine of an angle in radians. Meant for |x| below about 10⁵.</summary>
    public static double Sin(double x)
    {
        var n = Math.Floor(x * (2 / Math.PI) + 0.5);
        // Cody–Waite reduction in three parts of π/2.
        var head = x - n * 1.57079632673412561417e+00;
        var tail = n * 6.07710050650619224932e-11;
        var rest = head - tail;
        var low = head - rest - tail;
        return InQuadrant((int)((long)n & 3), rest, low).Sin;
    }

    /// <summary>Angle in radians of the point (x, y), in −π…π.</summary>
    public static double Atan2(double y, double x)
    {
        if (x == 0 && y == 0)
        {
            return 0;
        }
        if (Math.Abs(y) <= Math.Abs(x))
        {
            var a = Atan(y / x);
            return x > 0 ? a : y >= 0 ? a + Math.PI : a - Math.PI;
        }
        var b = Atan(x / y);
        return y > 0 ? Math.PI / 2 - b : -Math.PI / 2 - b;
    }

    /// <summary><see cref="Atan2"/> in degrees.</summary>
    public static double Atan2Degrees(double y, double x) => Atan2(y, x) / DegreesToRadians;

    /// <summary>Arc sine in radians of a number in −1…1.</summary>
    public static double Asin(double x) => Atan2(x, Math.Sqrt(Math.Max(0, (1 - x) * (1 + x))));

    /// <summary>2 to the power <paramref name="x"/>, for |x| below 1000.</summary>
    public static double Exp2(double x)
    {
        var n = Math.Floor(x + 0.5);
        var y = (x - n) * 0.69314718055994530942;
        double sum = 1, term = 1;
        for (var k = 1; k <= 16; k++)
        {
            term = term * y / k;
            sum += term;
        }
        return sum * BitConverter.Int64BitsToDouble(((long)n + 1023) << 52);
    }

    private static double Atan(double x)
    {
        var sign = x < 0 ? -1.0 : 1.0;
        x = Math.Abs(x);
        double high = 0, low = 0;
        if (x >= 0.4375)
        {
            if (x < 0.6875) { (high, low) = (4.63647609000806093515e-01, 2.26987774529616870924e-17); x = (2 * x - 1) / (2 + x); }
            else if (x < 1.1875) { (high, low) = (7.85398163397448278999e-01, 3.06161699786838301793e-17); x = (x - 1) / (x + 1); }
            else if (x < 2.4375) { (high, low) = (9.82793723247329054082e-01, 1.39033110312309984516e-17); x = (x - 1.5) / (1 + 1.5 * x); }
            else { (high, low) = (1.57079632679489655800e+00, 6.12323399573676603587e-17); x = -1 / x; }
        }
        var z = x * x;
        var w = z * z;
        var odd = z * (3.33333333333329318027e-01 + w * (1.42857142725034663711e-01 + w * (9.09088713343650656196e-02
            + w * (6.66107313738753120669e-02 + w * (4.97687799461593236017e-02 + w * 1.62858201153657823623e-02)))));
        var even = w * (-1.99999999998764832476e-01 + w * (-1.11111104054623557880e-01 + w * (-7.69187620504482999495e-02
            + w * (-5.83357013379057348645e-02 + w * -3.65315727442169155270e-02))));
        return sign * (high - (x * (odd + even) - low - x));
    }

    private static (double Sin, double Cos) InQuadrant(int quadrant, double x, double low)
    {
        var z = x * x;
        var r = 8.33333333332248946124e-03 + z * (-1.98412698298579493134e-04 + z * (2.75573137070700676789e-06
            + z * (-2.50507602534068634195e-08 + z * 1.58969099521155010221e-10)));
        var v = z * x;
        var sin = x - (z * (0.5 * low - v * r) - low - v * -1.66666666666666324348e-01);
        var c = z * (4.16666666666666019037e-02 + z * (-1.38888888888741095749e-03 + z * (2.48015872894767294178e-05
            + z * (-2.75573143513906633035e-07 + z * (2.08757232129817482790e-09 + z * -1.13596475577881948265e-11)))));
        var half = 0.5 * z;
        var one = 1 - half;
        var cos = one + (1 - one - half + (z * c - x * low));
        return (quadrant & 3) switch
        {
            0 => (sin, cos),
            1 => (cos, -sin),
            2 => (-sin, -cos),
            _ => (-cos, sin),
        };
    }
}
