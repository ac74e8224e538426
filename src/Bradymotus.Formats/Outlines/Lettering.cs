using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using SkiaSharp;

namespace Bradymotus.Formats.Outlines;

/// <summary>Words as outlines, in the fonts that ship with the program.</summary>
public static class Lettering
{
    // Letters are taken large, where their curves have all their digits, and brought to a metre an em.
    private const float Size = 1000;

    private const int MostMarks = 8;

    private static readonly (string Name, string File)[] All = [("Sans", "inter"), ("Serif", "lora"), ("Round", "fredoka"), ("Hand", "caveat")];

    private static readonly Dictionary<string, Lazy<SKTypeface[]>> Faces = All.ToDictionary(f => f.Name, f =>
        new Lazy<SKTypeface[]>(() => [Load($"{f.File}-latin.woff"), Load($"{f.File}-latin-ext.woff")]));

    /// <summary>The names of the fonts.</summary>
    public static IReadOnlyList<string> Fonts { get; } = [.. All.Select(f => f.Name)];

    /// <summary>The outline of a text, an em a metre high, centred across, its last line standing on y = 0.</summary>
    /// <exception cref="Refusal">There is nothing to draw, a letter that the font does not have, or no such font.</exception>
    public static string Outline(string text, string? font)
    {
        if (string.IsNullOrWhiteSpace(text) || text.Length > OutlineShape.MostText)
        {
            throw new Refusal($"Give the text 1 to {OutlineShape.MostText} characters.");
        }
        var faces = Faces.GetValueOrDefault(font ?? Fonts[0])?.Value ?? throw new Refusal($"There is no font “{font}”: choose one of {string.Join(", ", Fonts)}.");
        var lines = text.ReplaceLineEndings("\n").Split('\n');
        using var builder = new SKPathBuilder();
        for (var i = 0; i < lines.Length; i++)
        {
            using var line = Line(lines[i], faces, font ?? Fonts[0]);
            builder.AddPath(line, 0, Size * 1.2f * (i - lines.Length + 1));
        }
        using var all = builder.Detach();
        var data = OutlineData.Write(all, SKMatrix.CreateScale(1 / Size, -1 / Size));
        return data.Length > 0 ? data : throw new Refusal("The text has no letters that could be drawn.");
    }

    private static SKPath Line(string text, SKTypeface[] faces, string font)
    {
        using var line = new SKPathBuilder();
        var at = 0f;
        foreach (var letter in StringInfo.GetTextElementEnumerator(text).AsLetters())
        {
            // No language puts more on one letter; each more is laid over all others.
            if (letter.Length > MostMarks)
            {
                throw new Refusal($"A letter has {letter.Length - 1} marks above and below it, and {MostMarks - 1} is the most: leave some out.");
            }
            using var sized = Array.ConvertAll(faces, f => new SKFont(f, Size)).First(letter) ?? throw new Refusal($"The font {font} has no “{letter}”: leave it out, or choose another font.");
            using var path = sized.GetTextPath(letter);
            line.AddPath(path, at, 0);
            at += sized.MeasureText(letter);
        }
        var centred = line.Detach();
        centred.Transform(SKMatrix.CreateTranslation(-centred.TightBounds.MidX, 0));
        return centred;
    }

    /// <summary>The first font that has a letter; the others are let go.</summary>
    private static SKFont? First(this SKFont[] fonts, string letter)
    {
        var found = Array.Find(fonts, f => f.ContainsGlyphs(letter));
        foreach (var font in fonts)
        {
            if (font != found)
            {
                font.Dispose();
            }
        }
        return found;
    }

    private static IEnumerable<string> AsLetters(this TextElementEnumerator letters)
    {
        while (letters.MoveNext())
        {
            yield return letters.GetTextElement();
        }
    }

    private static SKTypeface Load(string file)
    {
        using var stream = typeof(Lettering).Assembly.GetManifestResourceStream(file)!;
        return SKTypeface.FromStream(stream) ?? throw new InvalidOperationException($"The font {file} cannot be read.");
    }
}
