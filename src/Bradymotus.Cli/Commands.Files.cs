using System.CommandLine;
using Bradymotus.Core;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Formats;
using Bradymotus.Formats.Gltf;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;

namespace Bradymotus.Cli;

/// <summary>What comes in, goes out and is rendered.</summary>
internal static partial class Commands
{
    private static Command RenderCommand()
    {
        var file = ShotArgument();
        var frames = new Option<string>("--frames") { Required = true, Description = "A-B, A-B/STEP or A." };
        var size = new Option<string?>("--size") { Description = "Width x height, for example 640x360; the shot's own without it." };
        var quality = new Option<Quality>("--quality") { DefaultValueFactory = _ => Quality.Preview, Description = "draft, preview or final." };
        var camera = new Option<string?>("--camera") { Description = "The camera's name; the shot's own without it." };
        var folder = new Option<string>("--out") { DefaultValueFactory = _ => "renders", Description = "The folder to write to." };
        var name = new Option<string>("--name") { DefaultValueFactory = _ => "shot_####.png", Description = "File name; a run of # is the frame's number." };
        var threads = new Option<int?>("--threads") { Description = "At most so many threads." };
        var samples = new Option<int?>("--samples") { Description = "Samples a pixel, in place of the quality's own." };
        var fps = FpsOption();
        var command = new Command("render", "Renders frames to PNG files.") { file, frames, size, quality, camera, folder, name, threads, samples, fps };
        command.SetAction((parsed, cancel) =>
        {
            var steps = FrameSteps.Parse(parsed.GetValue(frames)!);
            var names = new FileNamePattern(parsed.GetValue(name));
            if (parsed.GetValue(threads) is < 1 || parsed.GetValue(samples) is < 1 or > 1 << 20)
            {
                throw new Refusal("The number of threads or samples cannot be used: give at least 1.");
            }
            var (shot, meshes) = Open(parsed.GetValue(file)!, parsed.GetValue(fps));
            var pixels = parsed.GetValue(size) is { } text ? PictureSize.Parse(text) : shot.Size;
            pixels.Validate();
            var renderer = new FrameRenderer(shot, parsed.GetValue(camera), meshes);
            var target = parsed.GetValue(folder)!;
            MakeFolder(target);
            var done = 0;
            var watch = System.Diagnostics.Stopwatch.StartNew();
            foreach (var frame in steps.Frames())
            {
                var path = Path.Combine(target, names.Name(frame));
                renderer.Render(frame, pixels, parsed.GetValue(quality), parsed.GetValue(samples), parsed.GetValue(threads), cancel).WritePng(path);
                var left = TimeSpan.FromSeconds(watch.Elapsed.TotalSeconds / ++done * (steps.Count - done));
                Console.WriteLine($"{path}  ({done} of {steps.Count}, {left:hh\\:mm\\:ss} left)");
            }
            return Task.FromResult(0);
        });
        return command;
    }

    private static Command ImportCommand()
    {
        var file = new Argument<string>("FILE") { Description = $"A file ending in {string.Join(", ", Importer.Endings)}." };
        var target = new Option<string>("--out") { Required = true, Description = "The shot to write, X.shot.json; its meshes go to X.assets beside it." };
        var fps = FpsOption();
        var animation = new Option<string?>("--animation") { Description = "Which animation to take, where the file has several; the first without it." };
        var command = new Command("import", "Makes a shot of a file of another program.") { file, target, fps, animation };
        command.SetAction(parsed =>
        {
            var path = parsed.GetValue(target)!;
            if (!path.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
            {
                throw new Refusal($"{path} cannot be written: give --out a name that ends in .shot.json.");
            }
            var imported = Importer.Read(new FileOnDisk(parsed.GetValue(file)!), new(RateOf(parsed.GetValue(fps)), parsed.GetValue(animation)));
            MakeFolder(Path.GetDirectoryName(Path.GetFullPath(path))!);
            var folder = new AssetFolder(AssetFolder.Beside(path));
            foreach (var asset in imported.Assets)
            {
                folder.Put(asset);
            }
            WriteText(path, ShotJson.Write(imported.Shot, indented: true));
            Console.WriteLine($"{path}: {string.Join(", ", imported.Report.Imported)}");
            foreach (var skipped in imported.Report.Skipped)
            {
                Console.WriteLine($"- {skipped}");
            }
        });
        return command;
    }

    private static Command ExportCommand()
    {
        var file = ShotArgument();
        var target = new Option<string>("--out") { Required = true, Description = "The file to write, X.glb." };
        var step = new Option<double>("--step") { DefaultValueFactory = _ => 1, Description = "Where keys cannot stay keys: a sample every so many frames." };
        var nodes = NodesOption("The name of an object to export, with all below it; may be given several times. Without it everything is.");
        var fps = FpsOption();
        var command = new Command("export", "Writes a shot as glTF 2.0.") { file, target, step, nodes, fps };
        command.SetAction((parsed, cancel) =>
        {
            var path = parsed.GetValue(target)!;
            if (!path.EndsWith(".glb", StringComparison.OrdinalIgnoreCase))
            {
                throw new Refusal($"{path} cannot be written: give --out a name that ends in .glb.");
            }
            var (shot, meshes) = Open(parsed.GetValue(file)!, parsed.GetValue(fps));
            var exported = GltfWriter.Write(shot, meshes, new(NodesOf(shot, parsed.GetValue(nodes)), parsed.GetValue(step)), cancel);
            Write(path, exported.Bytes);
            Console.WriteLine($"{path}: {string.Join(", ", exported.Kept)}");
            foreach (var changed in exported.Changed)
            {
                Console.WriteLine($"- {changed}");
            }
            return Task.FromResult(0);
        });
        return command;
    }
}
