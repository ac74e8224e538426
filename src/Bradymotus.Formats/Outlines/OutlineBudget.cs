using Bradymotus.Core;
using SkiaSharp;

namespace Bradymotus.Formats.Outlines;

/// <summary>
/// How much work it is to put outlines together: it grows with how often their sides cross, which a few hundred points thrown at random do many
/// thousand times. Curves count by their control points.
/// </summary>
internal sealed class OutlineBudget
{
    private const int MostPoints = 6000, MostCrossings = 4000;

    private readonly List<(SKPoint A, SKPoint B)> _sides = [];
    private int _crossings;

    /// <exception cref="Refusal">With this outline it would be too much.</exception>
    internal void Add(SKPath path)
    {
        var points = path.GetPoints(path.PointCount);
        var first = _sides.Count;
        for (var i = 0; i + 1 < points.Length; i++)
        {
            _sides.Add((points[i], points[i + 1]));
        }
        if (_sides.Count > MostPoints)
        {
            throw new Refusal($"These outlines have more than {MostPoints} points together: simplify them, or join them in parts.");
        }
        for (var i = first; i < _sides.Count; i++)
        {
            for (var j = 0; j < i; j++)
            {
                if (Cross(_sides[i], _sides[j]) && ++_crossings > MostCrossings)
                {
                    throw new Refusal($"These outlines cross each other more than {MostCrossings} times: simplify them first.");
                }
            }
        }
    }

    private static bool Cross((SKPoint A, SKPoint B) s, (SKPoint A, SKPoint B) t)
    {
        static double Side(SKPoint a, SKPoint b, SKPoint p) => ((double)b.X - a.X) * ((double)p.Y - a.Y) - ((double)b.Y - a.Y) * ((double)p.X - a.X);
        return Side(s.A, s.B, t.A) * Side(s.A, s.B, t.B) < 0 && Side(t.A, t.B, s.A) * Side(t.A, t.B, s.B) < 0;
    }
}
