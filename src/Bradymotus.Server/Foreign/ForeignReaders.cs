using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Reader;

namespace Bradymotus.Server.Foreign;

/// <summary>
/// Models, pictures, sounds, films, words and outlines are read in processes of their own, which have bounds and end with the request that they work
/// for. One that has answered is kept for the next request for a while, since it starts slowly.
/// </summary>
public sealed class ForeignReaders : IDisposable
{
    /// <summary>The memory that reading takes at most, and the time, where little was sent.</summary>
    private const long MostBytes = 1L << 30, SmallBytes = 64L << 20;

    private static readonly TimeSpan Shortest = TimeSpan.FromSeconds(10);

    private static readonly TimeSpan KeptIdle = TimeSpan.FromMinutes(5);

    // More at a time would only wait for each other.
    private readonly SemaphoreSlim _gate = new(Math.Max(2, Environment.ProcessorCount));
    private readonly List<ReaderProcess> _idle = [];
    private readonly Timer _timer;
    private bool _isOver;

    public ForeignReaders() => _timer = new(_ => EndIdle(), null, KeptIdle, KeptIdle);

    /// <summary>Has something read, and gives what has come of it.</summary>
    /// <param name="sent">How many bytes were sent for it: what is long may take longer.</param>
    /// <param name="report">Hears how much is done, from 0 to 1, where anybody can say.</param>
    /// <exception cref="Refusal">It cannot be read, or not within its bounds.</exception>
    public async Task<T> ReadAsync<T>(ReadRequest request, long sent, Action<double>? report, CancellationToken cancel)
    {
        var bounds = BoundsOf(request, sent);
        await _gate.WaitAsync(cancel);
        try
        {
            var reader = Take(bounds.Bytes) ?? new ReaderProcess(bounds.Bytes);
            try
            {
                return (await reader.AskAsync(request, bounds, report, cancel)).Deserialize<T>(ReaderJson.Options)!;
            }
            finally
            {
                GiveBack(reader);
            }
        }
        finally
        {
            _gate.Release();
        }
    }

    public void Dispose()
    {
        lock (_idle)
        {
            _isOver = true;
            _idle.ForEach(r => r.Dispose());
            _idle.Clear();
        }
        _timer.Dispose();
        _gate.Dispose();
    }

    /// <summary>The processes that wait for a request.</summary>
    internal IReadOnlyList<int> Idle
    {
        get
        {
            lock (_idle)
            {
                return _idle.ConvertAll(r => r.Id);
            }
        }
    }

    /// <summary>What reading may cost: little for what is small, more by what was sent; films and sounds are turned into another kind, which lasts as long as they do.</summary>
    internal static ReadBounds BoundsOf(ReadRequest request, long sent) => request switch
    {
        ReadFilm => new(2 * MostBytes, TimeSpan.FromMinutes(60), 4 * MostBytes),
        ReadSound => new(MostBytes, TimeSpan.FromMinutes(5), MostBytes),
        _ => new(MostBytes + 6 * Math.Max(0, sent - SmallBytes), Shortest + TimeSpan.FromSeconds(Math.Max(0, sent - SmallBytes) >> 22), MostBytes + 6 * Math.Max(0, sent - SmallBytes)),
    };

    private ReaderProcess? Take(long bytes)
    {
        lock (_idle)
        {
            ObjectDisposedException.ThrowIf(_isOver, this);
            // What has been ended from outside meanwhile is no fault of the next file.
            foreach (var gone in _idle.Where(r => !r.IsAlive).ToList())
            {
                _idle.Remove(gone);
                gone.Dispose();
            }
            var reader = _idle.FindLast(r => r.Bytes == bytes);
            if (reader is not null)
            {
                _idle.Remove(reader);
            }
            return reader;
        }
    }

    private void GiveBack(ReaderProcess reader)
    {
        lock (_idle)
        {
            // One that may take more than others is not kept.
            if (reader.IsAlive && reader.Bytes == MostBytes && !_isOver)
            {
                _idle.Add(reader);
                return;
            }
        }
        reader.Dispose();
    }

    private void EndIdle()
    {
        lock (_idle)
        {
            foreach (var reader in _idle.Where(r => Environment.TickCount64 - r.Idle > KeptIdle.TotalMilliseconds).ToList())
            {
                _idle.Remove(reader);
                reader.Dispose();
            }
        }
    }
}
