using System.Text;

namespace Bradymotus.Server.Foreign;

/// <summary>The lines that a process writes, none longer than a bound: what it holds of foreign bytes must not fill the memory of who asked.</summary>
/// <param name="from">What it writes.</param>
/// <param name="most">So many characters a line has at most.</param>
internal sealed class AnswerLines(TextReader from, int most)
{
    private readonly char[] _read = new char[16 << 10];
    private int _at, _count;

    /// <summary>The next line; null where nothing more comes.</summary>
    /// <exception cref="InvalidDataException">It is longer than that. Nothing more can be read then.</exception>
    public async Task<string?> ReadAsync(CancellationToken cancel)
    {
        var line = new StringBuilder();
        while (true)
        {
            if (_at == _count)
            {
                (_at, _count) = (0, await from.ReadAsync(_read, cancel));
                if (_count == 0)
                {
                    return line.Length > 0 ? line.ToString() : null;
                }
            }
            var end = Array.IndexOf(_read, '\n', _at, _count - _at);
            line.Append(_read, _at, (end < 0 ? _count : end) - _at);
            _at = end < 0 ? _count : end + 1;
            if (line.Length > most)
            {
                throw new InvalidDataException();
            }
            if (end >= 0)
            {
                return line.ToString();
            }
        }
    }
}
