using System.Globalization;
using System.Text;
using Bradymotus.Core;

namespace Bradymotus.Render.Pictures;

/// <summary>The names of a sequence's files: a run of # is the frame's number, with zeros in front. <c>shot_####.png</c> → <c>shot_0012.png</c></summary>
public sealed class FileNamePattern
{
    // Systems take 255 bytes; the rest is for what is put behind a name while a file is being written.
    private const int MostBytes = 150;

    private readonly string _before, _after;
    private readonly int _digits;

    /// <exception cref="Refusal">There is no #, or two runs of it; the name holds a path; it does not end in .png.</exception>
    public FileNamePattern(string? text)
    {
        text ??= "";
        if (text.Contains('/', StringComparison.Ordinal) || text.Contains('\\', StringComparison.Ordinal) || text.Contains("..", StringComparison.Ordinal)
            || text.Any(char.IsControl) || text.StartsWith('.'))
        {
            throw new Refusal($"The file name “{text}” holds a path: give a plain name, and the folder apart.");
        }
        if (text.IndexOfAny(['<', '>', ':', '"', '|', '?', '*']) >= 0 || Encoding.UTF8.GetByteCount(text) > MostBytes)
        {
            throw new Refusal($"The file name “{text}” holds a character that not every system takes, or is longer than {MostBytes} bytes: use letters, digits, - and _.");
        }
        var first = text.IndexOf('#', StringComparison.Ordinal);
        var last = text.LastIndexOf('#');
        if (first < 0)
        {
            throw new Refusal($"The file name “{text}” has no # for the frame's number: write it as shot_####.png, or every frame would overwrite the last one.");
        }
        _digits = last - first + 1;
        if (text[first..(last + 1)].Any(c => c != '#') || _digits > 9)
        {
            throw new Refusal($"The file name “{text}” has more than one place for the frame's number: keep one run of up to nine #.");
        }
        if (!text.EndsWith(".png", StringComparison.OrdinalIgnoreCase))
        {
            throw new Refusal($"The file name “{text}” does not end in .png: pictures are written as PNG.");
        }
        (Text, _before, _after) = (text, text[..first], text[(last + 1)..]);
    }

    /// <summary>As it was written.</summary>
    public string Text { get; }

    /// <summary>The name of one frame's file; a negative number has its sign before the zeros.</summary>
    public string Name(int frame)
    {
        var digits = Math.Abs((long)frame).ToString(CultureInfo.InvariantCulture).PadLeft(_digits, '0');
        return $"{_before}{(frame < 0 ? "-" : "")}{digits}{_after}";
    }
}
