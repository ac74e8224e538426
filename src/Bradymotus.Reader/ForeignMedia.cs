using System.ComponentModel;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Formats;
using FFMpegCore;
using FFMpegCore.Exceptions;

namespace Bradymotus.Reader;

/// <summary>Sounds and films of other programs, which ffmpeg turns into the one kind that is kept.</summary>
internal static class ForeignMedia
{
    /// <summary>Lets a file be turned into another, which does not stay behind.</summary>
    /// <param name="given">Where the file is.</param>
    /// <param name="name">Its name; it may hold a path.</param>
    /// <param name="what">sound or film.</param>
    /// <param name="ending">Of what is made, with its dot.</param>
    /// <param name="only">Arguments that keep ffmpeg from opening anything else.</param>
    /// <param name="make">Gets what ffmpeg says of the file, where the other shall be, and the name without a path.</param>
    /// <exception cref="Refusal">It cannot be read, or ffmpeg is missing.</exception>
    internal static async Task<T> TurnAsync<T>(string given, string name, string what, string ending, string only, Func<IMediaAnalysis, string, string, Task<T>> make)
    {
        name = Path.GetFileName(name) is { Length: > 0 } own ? own : $"{char.ToUpperInvariant(what[0])}{what[1..]}";
        var made = $"{given}.made{ending}";
        try
        {
            return await make(await FFProbe.AnalyseAsync(given, new FFOptions(), customArguments: only), made, name);
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
            File.Delete(made);
        }
    }

    /// <summary>Moves a file to the assets that have been made.</summary>
    /// <returns>The name of its asset.</returns>
    internal static async Task<string> KeepAsync(string file, string folder)
    {
        string name;
        await using (var bytes = File.OpenRead(file))
        {
            name = await Asset.NameOfAsync(bytes);
        }
        File.Move(file, Path.Combine(folder, name + Path.GetExtension(file)), overwrite: true);
        return name;
    }

    /// <summary>A name as a shot can have it.</summary>
    internal static string Clean(string name)
    {
        var clean = string.Concat(name.Select(c => c == '/' || char.IsControl(c) ? '_' : c));
        return clean[..Math.Min(clean.Length, ShotRules.MostNameLength)];
    }
}
