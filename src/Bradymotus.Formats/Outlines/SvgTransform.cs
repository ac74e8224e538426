using System.Globalization;
using System.Text.RegularExpressions;
using Bradymotus.Core;
using SkiaSharp;

namespace Bradymotus.Formats.Outlines;

/// <summary>The attribute <c>transform</c> of SVG: matrix, translate, scale, rotate, skewX and skewY, the first outermost.</summary>
internal static partial class SvgTransform
{
    /// <exception cref="Refusal">It cannot be read.</exception>
    internal static SKMatrix Parse(string text, string file)
    {
        var map = SKMatrix.Identity;
        foreach (Match match in Step().Matches(text))
        {
            var v = Numbers().Matches(match.Groups[2].Value).Select(m => float.Parse(m.Value, CultureInfo.InvariantCulture)).ToArray();
            float At(int i, float otherwise = 0) => i < v.Length ? v[i] : otherwise;
            var step = match.Groups[1].Value switch
            {
                "matrix" when v.Length == 6 => new SKMatrix(v[0], v[2], v[4], v[1], v[3], v[5], 0, 0, 1),
                "translate" => SKMatrix.CreateTranslation(At(0), At(1)),
                "scale" => SKMatrix.CreateScale(At(0, 1), At(1, At(0, 1))),
                "rotate" => SKMatrix.CreateRotationDegrees(At(0), At(1), At(2)),
                "skewX" => SKMatrix.CreateSkew(MathF.Tan(At(0) * MathF.PI / 180), 0),
                "skewY" => SKMatrix.CreateSkew(0, MathF.Tan(At(0) * MathF.PI / 180)),
                _ => throw new Refusal($"{file} holds the transform “{match.Value}”, which cannot be read: mend the drawing."),
            };
            map = step.PostConcat(map);
        }
        return map;
    }

    [GeneratedRegex(@"([a-zA-Z]+)\s*\(([^)]*)\)", RegexOptions.None, 1000)]
    private static partial Regex Step();

    [GeneratedRegex(@"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?", RegexOptions.None, 1000)]
    private static partial Regex Numbers();
}
