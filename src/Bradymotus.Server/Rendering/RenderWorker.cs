using System.Collections.Concurrent;
using System.Diagnostics;
using Bradymotus.Core;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;
using Bradymotus.Server.Store;
using Hangfire;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging;

namespace Bradymotus.Server.Rendering;

/// <summary>Renders the frames of a sequence that are left, one after the other. After a restart it goes on where the database says.</summary>
public sealed partial class RenderWorker(RenderStore store, RenderNews news, DataFolder folder, ILogger<RenderWorker> log)
{
    /// <summary>A frame that was begun so often in one run of the machine, and neither finished nor was stopped, has ended the program.</summary>
    private const int MostBegun = 3;

    /// <summary>How far it is, is told at most so often, in milliseconds.</summary>
    private const int Pause = 200;

    private readonly ConcurrentDictionary<string, CancellationTokenSource> _running = new();

    /// <summary>Stops a sequence after at most a row of pixels, where it is being rendered.</summary>
    public async Task StopAsync(string id)
    {
        if (!_running.TryGetValue(id, out var running))
        {
            return;
        }
        try
        {
            await running.CancelAsync();
        }
        catch (ObjectDisposedException)
        {
            // It has just come to its end.
        }
    }

    /// <summary>Renders what is left of a sequence. Called by the queue.</summary>
    [AutomaticRetry(Attempts = 0)]
    public async Task RunAsync(string id, CancellationToken shutdown)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(shutdown);
        if (!_running.TryAdd(id, stop))
        {
            return;
        }
        try
        {
            await RenderAsync(id, stop.Token);
        }
        catch (OperationCanceledException)
        {
            LogStopped(id);
        }
        catch (Exception e) when (e is Refusal or IOException or UnauthorizedAccessException or DbUpdateException)
        {
            await FailAsync(id, e.Message);
        }
        catch (Exception e)
        {
            // Not foreseen: it must not look as if it were still going on.
            await FailAsync(id, $"Something went wrong while rendering ({e.GetType().Name}); the log of the server says what.");
            throw;
        }
        finally
        {
            _running.TryRemove(id, out _);
        }
    }

    private async Task RenderAsync(string id, CancellationToken cancel)
    {
        if (!await store.SetStateAsync(id, RenderState.Running, null, cancel, RenderState.Queued, RenderState.Running))
        {
            return;
        }
        var row = await store.GetAsync(id, cancel);
        Directory.CreateDirectory(folder.Render(id));
        var renderer = new FrameRenderer(store.ShotOf(row), row.Camera, folder.Assets.ForShots);
        var names = new FileNamePattern(row.FileName);
        var quality = Enum.Parse<Quality>(row.Quality, ignoreCase: true);
        if (row.Boot != Boot)
        {
            // What ended before the machine was started anew may have ended with it.
            await store.ForgetBegunAsync(id, cancel);
            await store.SetBootAsync(id, Boot, cancel);
        }
        var told = Stopwatch.StartNew();
        var left = await store.LeftAsync(id, cancel);
        for (var i = 0; i < left.Count; i++)
        {
            var (frame, begun) = left[i];
            if (begun >= MostBegun)
            {
                throw new Refusal($"Frame {frame} has ended the program {begun} times and is not tried again: look at the scene on that frame, then resume.");
            }
            await store.SetBegunAsync(id, frame, begun + 1, cancel);
            if (i == 0)
            {
                await news.TellAsync(id);
            }
            var watch = Stopwatch.StartNew();
            try
            {
                cancel.ThrowIfCancellationRequested();
                var picture = renderer.Render(frame, new(row.Width, row.Height), quality, cancel: cancel);
                picture.WritePng(Path.Combine(folder.Render(id), names.Name(frame)));
            }
            catch
            {
                // Stopped, or failed with a sentence: it did not end the program.
                await store.SetBegunAsync(id, frame, begun, CancellationToken.None);
                throw;
            }
            // A picture that is done counts, also where it was the last before a stop.
            await store.SetDoneAsync(id, frame, watch.Elapsed.TotalMilliseconds);
            if (told.ElapsedMilliseconds >= Pause)
            {
                await news.TellAsync(id);
                told.Restart();
            }
        }
        // Stopped after its last picture it is done as well.
        await store.SetStateAsync(id, RenderState.Done, null, CancellationToken.None, RenderState.Running, RenderState.Cancelled);
        await news.TellAsync(id);
    }

    /// <summary>This run of the machine, as the system names it; this run of the server where it does not.</summary>
    private static string Boot { get; } = ReadBoot();

    private static string ReadBoot()
    {
        try
        {
            return File.ReadAllText("/proc/sys/kernel/random/boot_id").Trim();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return Guid.NewGuid().ToString();
        }
    }

    private async Task FailAsync(string id, string message)
    {
        await store.SetStateAsync(id, RenderState.Failed, message, CancellationToken.None, RenderState.Queued, RenderState.Running);
        await news.TellAsync(id);
    }

    [LoggerMessage(LogLevel.Information, "Render {Id} stopped; its finished frames are kept.")]
    private partial void LogStopped(string id);
}
