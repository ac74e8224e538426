using System.ComponentModel;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using FFMpegCore;
using FFMpegCore.Exceptions;

namespace Bradymotus.Server.Rendering;

/// <summary>Sounds and films of other programs, which ffmpeg turns into the one kind that is kept.</summary>
internal static class ForeignMedia
{
    /// <summary>Puts what was given into a file, lets it be turned into another, and leaves neither behind.</summary>
    /// <param name="name">Of the file that was given; it may hold a path.</param>
    /// <param name="what">sound or film.</param>
    /// <param name="ending">Of what is made, with its dot.</param>
    /// <param name="only">Arguments that keep ffmpeg from opening anything else.</param>
    /// <param name="make">Gets what ffmpeg says of the file, where it is, where the other shall be, and its name without a path.</param>
    /// <exception cref="Refusal">It cannot be read, or ffmpeg is missing.</exception>
    internal static async Task<T> TurnAsync<T>(byte[] bytes, string name, string what, string ending, string only, Func<IMediaAnalysis, string, string, string, Task<T>> make, CancellationToken cancel)
    {
        name = Path.GetFileName(name) is { Length: > 0 } own ? own : $"{char.ToUpperInvariant(what[0])}{what[1..]}";
        // A folder that nobody else can look into.
        var folder = Directory.CreateTempSubdirectory("bradymotus-media-");
        var (given, made) = (Path.Combine(folder.FullName, $"given.{what}"), Path.Combine(folder.FullName, "made" + ending));
        try
        {
            await File.WriteAllBytesAsync(given, bytes, cancel);
            return await make(await FFProbe.AnalyseAsync(given, new FFOptions(), cancel, only), given, made, name);
        }
        catch (Exception e) when (e is Win32Exception or Instances.Exceptions.InstanceFileNotFoundException)
        {
            throw new Refusal($"{char.ToUpperInvariant(what[0])}{what[1..]}s are read by ffmpeg, which is not installed: run “apt-get install ffmpeg” and try again.", e);
        }
        catch (Exception e) when (e is FFMpegException or FormatException or NullReferenceException)
        {
            throw new Refusal($"{name} is no {what} that can be read: it is damaged, or of a kind that ffmpeg does not know.", e);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    /// <summary>A name as a shot can have it.</summary>
    internal static string Clean(string name)
    {
        var clean = string.Concat(name.Select(c => c == '/' || char.IsControl(c) ? '_' : c));
        return clean[..Math.Min(clean.Length, ShotRules.MostNameLength)];
    }
}
