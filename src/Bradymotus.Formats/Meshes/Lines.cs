using System.Buffers.Text;
using System.Text;

namespace Bradymotus.Formats.Meshes;

/// <summary>Text in UTF-8, line by line and word by word, without making strings of it.</summary>
internal ref struct Lines(ReadOnlySpan<byte> text)
{
    private ReadOnlySpan<byte> _rest = text;
    private ReadOnlySpan<byte> _line;

    /// <summary>How many lines have been read.</summary>
    internal int Number { get; private set; }

    /// <summary>What follows the lines that have been read.</summary>
    internal readonly ReadOnlySpan<byte> Rest => _rest;

    /// <summary>What is left of the line.</summary>
    internal readonly string Line => Encoding.UTF8.GetString(_line).Trim();

    internal bool Next()
    {
        if (_rest.IsEmpty)
        {
            return false;
        }
        var end = _rest.IndexOf((byte)'\n');
        _line = end < 0 ? _rest : _rest[..end];
        _rest = end < 0 ? default : _rest[(end + 1)..];
        Number++;
        return true;
    }

    /// <summary>The next word of the line; empty at its end.</summary>
    internal ReadOnlySpan<byte> Word()
    {
        var start = 0;
        while (start < _line.Length && _line[start] <= ' ')
        {
            start++;
        }
        var end = start;
        while (end < _line.Length && _line[end] > ' ')
        {
            end++;
        }
        var word = _line[start..end];
        _line = _line[end..];
        return word;
    }

    /// <summary>The next word as a number; not-a-number where it is none.</summary>
    internal float Float() => Float(Word());

    internal static float Float(ReadOnlySpan<byte> word) =>
        Utf8Parser.TryParse(word.Length > 0 && word[0] == '+' ? word[1..] : word, out float value, out var used) && used >= word.Length - 1 ? value : float.NaN;

    /// <summary>A whole number at the start of some bytes, and what follows it.</summary>
    internal static int Whole(ReadOnlySpan<byte> word, out ReadOnlySpan<byte> rest)
    {
        var found = Utf8Parser.TryParse(word, out int value, out var used);
        rest = word[used..];
        return found ? value : 0;
    }
}
