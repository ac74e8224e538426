using System.CommandLine;
using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Bradymotus.Server;
using Bradymotus.Server.Store;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;

namespace Bradymotus.Cli;

/// <summary>The commands that serve the interface.</summary>
internal static class ServeCommands
{
    internal static IEnumerable<Command> All() => [ServeCommand("serve", demo: false), ServeCommand("demo", demo: true), FilmCommand(), OpenApiCommand()];

    private static Command ServeCommand(string name, bool demo)
    {
        var data = new Option<string?>("--data") { Description = "The folder that holds everything." };
        var port = new Option<int>("--port") { DefaultValueFactory = _ => 5080, Description = "0 takes a free one." };
        var command = new Command(name, demo ? "Serves the interface with the demo shots." : "Serves the interface.") { data, port };
        command.SetAction(async (parsed, cancel) =>
        {
            var number = parsed.GetValue(port);
            if (number is < 0 or > 65535)
            {
                throw new Refusal($"The port {number} does not exist: choose one from 0 to 65535.");
            }
            var home = Environment.GetEnvironmentVariable("BRADYMOTUS_HOME") ?? Directory.GetCurrentDirectory();
            var folder = parsed.GetValue(data) ?? Path.Combine(home, demo ? "data/demo" : "data/shots");
            await using var app = await BradymotusServer.BuildAsync(new(folder, number, Path.Combine(home, "web", "dist")), cancel);
            if (demo)
            {
                await AddDemoShotsAsync(app, Path.Combine(home, "demo"), cancel);
            }
            try
            {
                await app.StartAsync(cancel);
            }
            catch (IOException e)
            {
                throw new Refusal($"The port {number.ToString(CultureInfo.InvariantCulture)} is taken: choose another with --port.", e);
            }
            var address = app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses.First();
            Console.WriteLine($"Bradymotus is ready: {address}  (data in {folder}; stop with Ctrl+C)");
            await app.WaitForShutdownAsync(cancel);
            return 0;
        });
        return command;
    }

    /// <summary>Each demo shot is put in once; what has been made of it since stays.</summary>
    private static async Task AddDemoShotsAsync(WebApplication app, string folder, CancellationToken cancel)
    {
        var library = app.Services.GetRequiredService<ShotLibrary>();
        var known = (await library.ListAsync(deleted: false, cancel)).Concat(await library.ListAsync(deleted: true, cancel)).Select(s => s.Name).ToHashSet();
        // The oldest is opened first: shots come before models.
        foreach (var file in Directory.Exists(folder) ? Directory.GetFiles(folder).OrderBy(Importer.CanRead).ThenBy(f => f, StringComparer.Ordinal) : Enumerable.Empty<string>())
        {
            // Models come in as they would for anybody.
            var imported = Importer.CanRead(file) ? Importer.Read(new FileOnDisk(file), new(), cancel) : null;
            if (imported is null && !file.EndsWith(".shot.json", StringComparison.OrdinalIgnoreCase))
            {
                continue;
            }
            var shot = imported?.Shot ?? ShotJson.ReadShot(await File.ReadAllTextAsync(file, cancel));
            // What is done to a model once it has come in.
            if (imported is not null && Path.ChangeExtension(file, ".edits.json") is var edits && File.Exists(edits))
            {
                shot = ShotJson.Read<Edit[]>(await File.ReadAllTextAsync(edits, cancel), "list of edits").Aggregate(shot, (s, e) => e.Apply(s, cancel));
            }
            if (!known.Contains(shot.Name))
            {
                var assets = app.Services.GetRequiredService<DataFolder>().Assets;
                foreach (var asset in imported?.Assets ?? ShotZip.AssetsOf(shot).Select(new AssetFolder(AssetFolder.Beside(file)).Read).OfType<byte[]>().Select(Asset.Of))
                {
                    assets.Put(asset);
                }
                await library.AddAsync(shot, cancel);
            }
        }
    }

    private static Command OpenApiCommand()
    {
        var command = new Command("openapi", "Writes the description of the API.");
        command.SetAction(async (_, cancel) =>
        {
            var folder = Directory.CreateTempSubdirectory("bradymotus-");
            try
            {
                await using var app = await BradymotusServer.BuildAsync(new(folder.FullName, 0, null, Quiet: true), cancel);
                await app.StartAsync(cancel);
                using var client = new HttpClient { BaseAddress = new(app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses.First()) };
                Console.WriteLine(await client.GetStringAsync(new Uri("/openapi.json", UriKind.Relative), cancel));
                await app.StopAsync(cancel);
            }
            finally
            {
                folder.Delete(recursive: true);
            }
        });
        return command;
    }

    private static Command FilmCommand()
    {
        var pictures = new Argument<string>("FOLDER") { Description = "A folder of PNG files, in the order of their numbers." };
        var output = new Option<string>("--out") { Required = true, Description = "The film to write: *.mp4, *.webm, *.gif or *.apng." };
        var fps = new Option<double>("--fps") { DefaultValueFactory = _ => 24, Description = "Frames a second." };
        var times = new Option<int>("--times") { DefaultValueFactory = _ => 1, Description = "How often the sequence plays." };
        var sounds = new Option<string?>("--sounds-of") { Description = "A shot file: the film sounds as it does, from the frames that the pictures are numbered with." };
        var command = new Command("film", "Makes a film of rendered pictures.") { pictures, output, fps, times, sounds };
        command.SetAction(async (parsed, cancel) =>
        {
            var folder = parsed.GetValue(pictures)!;
            var (to, repeats) = (Path.GetFullPath(parsed.GetValue(output)!), parsed.GetValue(times));
            var format = Server.Rendering.FilmFormat.Of(to);
            if (format.Sound is null && parsed.GetValue(sounds) is not null)
            {
                throw new Refusal($"A film that ends in {format.Ending} has no sound: leave --sounds-of out, or make an .mp4 or a .webm.");
            }
            if (!(parsed.GetValue(fps) is >= 1 and <= 1000) || repeats is < 1 or > 100)
            {
                throw new Refusal("The rate or the number of times cannot be used: give 1 to 1000 frames a second, 1 to 100 times.");
            }
            var files = Directory.Exists(folder) ? Directory.GetFiles(folder, "*.png").Select(Path.GetFullPath).ToList() : [];
            if (files.Count == 0)
            {
                throw new Refusal($"There are no PNG files in {folder}: render some first.");
            }
            var all = Server.Rendering.FilmFrames.OfFiles(files).Times(repeats);
            if (all.Held > 0)
            {
                await Console.Error.WriteLineAsync($"{(all.Held == 1 ? "1 frame has" : $"{all.Held} frames have")} no picture and {(all.Held == 1 ? "is" : "are")} shown by the one before.");
            }
            string? sound = null;
            try
            {
                if (parsed.GetValue(sounds) is { } path)
                {
                    var shot = ShotJson.ReadShot(Commands.ReadText(path));
                    sound = $"{to}.{Guid.NewGuid():N}.pcm";
                    await Server.Rendering.SoundMix.WriteAsync(sound, shot, all.AreNumbered ? all.Frames : [.. all.Frames.Select(f => f + shot.Range.First)],
                        parsed.GetValue(fps), new AssetFolder(AssetFolder.Beside(path)).Read, isBare: true, cancel);
                }
                await Server.Rendering.FilmEncoder.EncodeAsync(all.Pictures, parsed.GetValue(fps), to, format, part =>
                {
                    if (!Console.IsErrorRedirected)
                    {
                        Console.Error.Write($"\r{part,4:P0}\r");
                    }
                }, cancel, sound);
            }
            finally
            {
                if (sound is not null)
                {
                    File.Delete(sound);
                }
            }
            Console.WriteLine(parsed.GetValue(output));
        });
        return command;
    }
}
