using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using SkiaSharp;

namespace Bradymotus.Formats.Outlines;

/// <summary>How outlines are put together.</summary>
public enum OutlineJoin
{
    /// <summary>What lies in any of them.</summary>
    Union,

    /// <summary>What lies in all of them.</summary>
    Intersect,

    /// <summary>What lies in the first and in none of the others.</summary>
    Cut,
}

/// <summary>An outline and where it lies: its x and y axes and its origin as x, y each.</summary>
public sealed record PlacedOutline(string Path, IReadOnlyList<double> Map);

/// <summary>The path data of an <see cref="OutlineShape"/>.</summary>
public static class OutlineData
{
    // What puts paths together works on numbers of some hundreds.
    private const float Fine = 1000;

    /// <summary>Several outlines as one, in the space of their maps.</summary>
    /// <exception cref="Refusal">One of them cannot be read, or nothing would be left.</exception>
    public static string Join(IReadOnlyList<PlacedOutline> outlines, OutlineJoin how)
    {
        if (outlines.Count is < 2 or > 200)
        {
            throw new Refusal($"{outlines.Count} outlines cannot be joined: choose 2 to 200.");
        }
        SKPath? all = null;
        var budget = new OutlineBudget();
        foreach (var outline in outlines)
        {
            if (outline?.Path is null)
            {
                throw new Refusal("One of the outlines is missing: give each its path and where it lies.");
            }
            if (outline.Map is not { Count: 6 } m || !m.All(v => double.IsFinite(v) && Math.Abs(v) < 1e6))
            {
                throw new Refusal("An outline does not lie where it could be joined: give it a scale and a place that are not so extreme.");
            }
            using var own = Parse(outline.Path);
            own.Transform(new SKMatrix((float)m[0], (float)m[2], (float)m[4], (float)m[1], (float)m[3], (float)m[5], 0, 0, 1).PostConcat(SKMatrix.CreateScale(Fine, Fine)));
            budget.Add(own);
            if (all is null)
            {
                all = own.Simplify() ?? new SKPath(own);
                continue;
            }
            var joined = all.Op(own, how switch { OutlineJoin.Union => SKPathOp.Union, OutlineJoin.Intersect => SKPathOp.Intersect, _ => SKPathOp.Difference })
                ?? throw new Refusal("These outlines cannot be put together: move one of them a little.");
            all.Dispose();
            all = joined;
        }
        using (all)
        {
            return all!.IsEmpty
                ? throw new Refusal(how == OutlineJoin.Cut ? "Nothing would be left: the others cover the first outline." : "Nothing would be left: the outlines do not overlap.")
                : Write(all, SKMatrix.CreateScale(1 / Fine, 1 / Fine));
        }
    }

    /// <exception cref="Refusal">The data cannot be read.</exception>
    internal static SKPath Parse(string data)
    {
        var path = data is { Length: > 0 and <= 1_000_000 } ? SKPath.ParseSvgPathData(data) : null;
        if (path is null || path.IsEmpty)
        {
            throw new Refusal("The path data of an outline cannot be read: write it as SVG does.");
        }
        path.FillType = SKPathFillType.EvenOdd;
        return path;
    }

    /// <summary>Path data of closed contours that do not cross, with absolute M, L, Q, C and Z.</summary>
    /// <returns>Nothing where nothing is enclosed.</returns>
    internal static string Write(SKPath path, SKMatrix map)
    {
        using var simple = path.Simplify();
        using var moved = new SKPath(simple ?? path);
        moved.Transform(map);
        return moved.IsEmpty ? "" : Shorten(moved.ToSvgPathData());
    }

    /// <summary>Six digits are a tenth of a millimetre in a hundred metres.</summary>
    private static string Shorten(string data)
    {
        var text = new System.Text.StringBuilder(data.Length);
        for (var i = 0; i < data.Length;)
        {
            var end = i;
            while (end < data.Length && (char.IsAsciiDigit(data[end]) || data[end] is '-' or '+' or '.' or 'e'))
            {
                end++;
            }
            if (end == i)
            {
                text.Append(data[i++]);
                continue;
            }
            text.Append(double.Parse(data.AsSpan(i, end - i), NumberStyles.Float, CultureInfo.InvariantCulture).ToString("G6", CultureInfo.InvariantCulture));
            i = end;
        }
        return text.ToString();
    }
}
