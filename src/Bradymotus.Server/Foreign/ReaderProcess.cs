using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Reader;

namespace Bradymotus.Server.Foreign;

/// <summary>What reading something may cost.</summary>
/// <param name="Bytes">Of memory, with all that it starts.</param>
/// <param name="Processor">Of the processors, all together.</param>
/// <param name="Written">Of the disk, for what comes of it.</param>
public readonly record struct ReadBounds(long Bytes, TimeSpan Processor, long Written);

/// <summary>A process that reads foreign bytes, and is ended when it reaches its bounds or nobody waits for it any more.</summary>
internal sealed class ReaderProcess : IDisposable
{
    /// <summary>How often it is looked at.</summary>
    private static readonly TimeSpan Look = TimeSpan.FromMilliseconds(40);

    /// <summary>Who waits, for a disk or for a processor that others have, waits at most so many times as long as it may compute.</summary>
    private const int MostWaiting = 30;

    /// <summary>So many characters an answer has at most: more than a path of outlines that may be in a shot.</summary>
    private const int MostAnswer = 64 << 20;

    private readonly Process _process;
    private readonly AnswerLines _answers;
    private readonly ProcessUse _use;
    private bool _isFit = true;

    /// <param name="bytes">The memory that it may take; it refuses by itself what would need more.</param>
    public ReaderProcess(long bytes)
    {
        Bytes = bytes;
        var program = Path.Combine(AppContext.BaseDirectory, "Bradymotus.Reader");
        var start = new ProcessStartInfo(program)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            // Nothing is opened but what a request names.
            WorkingDirectory = Path.GetTempPath(),
            Environment =
            {
                // The heap in the runtime's own hexadecimal digits: what lies outside of it is looked at from here.
                ["DOTNET_GCHeapHardLimit"] = (bytes - (bytes >> 3)).ToString("X", CultureInfo.InvariantCulture),
                ["DOTNET_TieredPGO"] = "0",
            },
        };
        _process = Process.Start(start) ?? throw new InvalidOperationException($"{program} does not start.");
        _use = new(_process.Id);
        _answers = new(_process.StandardOutput, MostAnswer);
    }

    public int Id => _process.Id;

    /// <summary>The memory that it may take.</summary>
    public long Bytes { get; }

    /// <summary>When it has last answered, in ticks of the environment.</summary>
    public long Idle { get; private set; }

    /// <summary>Whether it can be asked (again).</summary>
    public bool IsAlive => _isFit && !_process.HasExited;

    /// <summary>Asks it, and waits for what it says. Whatever goes wrong ends it.</summary>
    /// <exception cref="Refusal">It cannot be read, or not within its bounds.</exception>
    public async Task<JsonElement> AskAsync(ReadRequest request, ReadBounds bounds, Action<double>? report, CancellationToken cancel)
    {
        using var watch = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        var before = _use.Processor();
        var start = Environment.TickCount64;
        var hasAnswered = false;
        try
        {
            await _process.StandardInput.WriteLineAsync(JsonSerializer.Serialize(request, ReaderJson.Options).AsMemory(), cancel);
            await _process.StandardInput.FlushAsync(cancel);
            var line = _answers.ReadAsync(cancel);
            while (true)
            {
                // As long as it answers at once nobody has to look.
                if (await Task.WhenAny(line, Task.Delay(Look, watch.Token)) == line)
                {
                    var answer = JsonSerializer.Deserialize<ReadAnswer>(await line ?? throw Ended(request), ReaderJson.Options)!;
                    if (answer.Part is { } part)
                    {
                        report?.Invoke(part);
                        line = _answers.ReadAsync(cancel);
                        continue;
                    }
                    CheckWritten(request, bounds);
                    (Idle, hasAnswered) = (Environment.TickCount64, true);
                    _isFit = !answer.IsOver;
                    return answer.Result ?? throw (answer.IsOver ? TooLarge(request, bounds) : new Refusal(answer.Refused ?? "It cannot be read."));
                }
                cancel.ThrowIfCancellationRequested();
                if (_use.Bytes() > bounds.Bytes)
                {
                    throw TooLarge(request, bounds);
                }
                CheckWritten(request, bounds);
                if (_use.Processor() - before > bounds.Processor || Environment.TickCount64 - start > MostWaiting * bounds.Processor.TotalMilliseconds)
                {
                    throw new Refusal($"{request.What} takes more than {Seconds(bounds.Processor)} to read: make it smaller or simpler, and try again.");
                }
            }
        }
        catch (InvalidDataException)
        {
            throw TooLarge(request, bounds);
        }
        catch (Exception e) when (e is IOException or JsonException)
        {
            throw Ended(request);
        }
        finally
        {
            await watch.CancelAsync();
            _isFit &= hasAnswered;
            if (!_isFit)
            {
                End();
            }
        }
    }

    /// <summary>Ends it now, with everything that it has started.</summary>
    public void End()
    {
        _isFit = false;
        try
        {
            _process.Kill(entireProcessTree: true);
        }
        catch (Exception e) when (e is InvalidOperationException or System.ComponentModel.Win32Exception)
        {
            // It has ended by itself.
        }
    }

    public void Dispose()
    {
        End();
        _process.Dispose();
    }

    /// <exception cref="Refusal">There is more of it than it may write.</exception>
    private static void CheckWritten(ReadRequest request, ReadBounds bounds)
    {
        if (request.Folder is not { } folder)
        {
            return;
        }
        var written = 0L;
        try
        {
            written = new DirectoryInfo(folder).EnumerateFiles("*", SearchOption.AllDirectories).Sum(f => f.Length);
        }
        catch (IOException)
        {
            // A file has gone while it was looked at: the next look sees the rest.
        }
        if (written > bounds.Written)
        {
            throw new Refusal($"{request.What} takes more than {bounds.Written / (1 << 20)} MB of the disk once it is read: make it smaller or simpler, and try again.");
        }
    }

    private static string Seconds(TimeSpan time) => time.TotalSeconds < 120 ? $"{time.TotalSeconds:0} seconds" : $"{time.TotalMinutes:0} minutes";

    private static Refusal TooLarge(ReadRequest request, ReadBounds bounds) =>
        new($"{request.What} takes more than {bounds.Bytes / (1 << 20)} MB of memory to read: make it smaller or simpler, and try again.");

    private static Refusal Ended(ReadRequest request) =>
        new($"{request.What} has ended the program that was reading it: it is damaged. Save it again with the program that it comes from, and try again.");
}
