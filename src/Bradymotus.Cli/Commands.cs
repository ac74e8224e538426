using System.CommandLine;
using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Formats;
using Bradymotus.Formats.Gltf;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;

namespace Bradymotus.Cli;

/// <summary>The commands that work on files. Those that serve are in <see cref="ServeCommands"/>.</summary>
internal static class Commands
{
    internal static IEnumerable<Command> All() => [CurveCommand(), SampleCommand(), RenderCommand(), ImportCommand(), ExportCommand(), CheckCommand(), SchemaCommand(), .. ServeCommands.All()];

    private static Command CurveCommand()
    {
        var file = new Argument<string>("FILE") { Description = "A curve as JSON." };
        var from = new Option<double>("--from") { Required = true, Description = "The first frame." };
        var to = new Option<double>("--to") { Required = true, Description = "The last frame." };
        var step = new Option<double>("--step") { DefaultValueFactory = _ => 1, Description = "Frames from one line to the next." };
        var command = new Command("curve", "Writes the values of a curve as CSV: frame,value.") { file, from, to, step };
        command.SetAction(parsed =>
        {
            var curve = ShotJson.Read<Curve>(ReadText(parsed.GetValue(file)!), "curve");
            var (first, last, by) = (parsed.GetValue(from), parsed.GetValue(to), parsed.GetValue(step));
            if (!double.IsFinite(first) || !double.IsFinite(last) || last < first)
            {
                throw new Refusal($"The frames {first}–{last} run backwards or are no numbers: give --from and --to in order.");
            }
            if (!(by > 0) || (last - first) / by > 10_000_000)
            {
                throw new Refusal($"The step {by} cannot be used: it must be above 0, and give at most ten million lines.");
            }
            using var output = new StreamWriter(Console.OpenStandardOutput());
            output.WriteLine("frame,value");
            // Counted, not added up, so that rounding does not grow.
            for (var i = 0L; first + i * by <= last + by * 1e-9; i++)
            {
                var frame = first + i * by;
                output.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{frame:R},{curve.Evaluate(frame):R}"));
            }
        });
        return command;
    }

    private static Command SampleCommand()
    {
        var file = ShotArgument();
        var frame = new Option<double>("--frame") { Required = true, Description = "The frame, which may be fractional." };
        var fps = FpsOption();
        var mesh = new Option<bool>("--mesh") { Description = "Adds the vertices, in world space." };
        var command = new Command("sample", "Writes where everything is on a frame, as JSON.") { file, frame, fps, mesh };
        command.SetAction(parsed =>
        {
            var at = parsed.GetValue(frame);
            if (!double.IsFinite(at))
            {
                throw new Refusal("The frame is not a finite number: give one.");
            }
            var (shot, meshes) = Open(parsed.GetValue(file)!, parsed.GetValue(fps));
            var state = new FrameState(new CompiledShot(shot), meshes);
            state.Evaluate(at);
            Console.WriteLine(ShotJson.Write(ShotSample.Of(state, parsed.GetValue(mesh))));
        });
        return command;
    }

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

    private static Command CheckCommand()
    {
        var file = ShotArgument();
        var fps = FpsOption();
        var command = new Command("check", "Reads the motion and writes what is probably not meant, as a JSON array of findings.") { file, fps };
        command.SetAction((parsed, cancel) =>
        {
            var (shot, meshes) = Open(parsed.GetValue(file)!, parsed.GetValue(fps));
            Console.WriteLine(ShotJson.Write(MotionChecks.Of(shot, meshes, cancel).ToArray()));
            return Task.FromResult(0);
        });
        return command;
    }

    private static Command SchemaCommand()
    {
        var what = new Argument<string>("WHAT") { Description = "shot, curve or journal." };
        var command = new Command("schema", "Writes the JSON schema of a shot, a curve or a journal entry.") { what };
        command.SetAction(parsed => Console.WriteLine(Schemas.Of(parsed.GetValue(what)!)));
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
            File.WriteAllText(path, ShotJson.Write(imported.Shot, indented: true));
            Console.WriteLine($"{path}: {string.Join(", ", imported.Report.Came)}");
            foreach (var missed in imported.Report.Missed)
            {
                Console.WriteLine($"- {missed}");
            }
        });
        return command;
    }

    private static Command ExportCommand()
    {
        var file = ShotArgument();
        var target = new Option<string>("--out") { Required = true, Description = "The file to write, X.glb." };
        var step = new Option<double>("--step") { DefaultValueFactory = _ => 1, Description = "Where keys cannot stay keys: a sample every so many frames." };
        var nodes = new Option<string[]>("--node") { Description = "The name of an object to export, with all below it; may be given several times. Without it everything is." };
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
            var ids = parsed.GetValue(nodes) is { Length: > 0 } names
                ? names.Select(n => (shot.FindNode(n) ?? shot.Nodes.FirstOrDefault(o => o.Name == n) ?? throw new Refusal($"There is no object “{n}” in the shot: check the name.")).Id).ToList()
                : null;
            var exported = GltfWriter.Write(shot, meshes, new(ids, parsed.GetValue(step)), cancel);
            MakeFolder(Path.GetDirectoryName(Path.GetFullPath(path))!);
            File.WriteAllBytes(path, exported.Bytes);
            Console.WriteLine($"{path}: {string.Join(", ", exported.Kept)}");
            foreach (var changed in exported.Changed)
            {
                Console.WriteLine($"- {changed}");
            }
            return Task.FromResult(0);
        });
        return command;
    }

    /// <summary>A shot, or what can be imported, with its meshes and pictures.</summary>
    /// <param name="fps">For what is imported: its frame rate.</param>
    internal static (Shot Shot, ShotAssets Assets) Open(string path, double? fps = null)
    {
        if (path.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
        {
            return (ShotJson.ReadShot(ReadText(path)), new AssetFolder(AssetFolder.Beside(path)).ForShots);
        }
        var imported = Importer.Read(new FileOnDisk(path), new(RateOf(fps)));
        return (imported.Shot, imported.ToAssets());
    }

    private static FrameRate RateOf(double? fps) => fps is { } given ? FrameRate.Nearest(given) : FrameRate.Film;

    private static Option<double?> FpsOption() => new("--fps") { Description = "For files of other programs: the frame rate to read them at; 24 without it." };

    internal static string ReadText(string path)
    {
        try
        {
            return File.ReadAllText(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The file {path} cannot be read: {(e is FileNotFoundException or DirectoryNotFoundException ? "there is none of this name. Check the path" : e.Message.TrimEnd('.'))}.", e);
        }
    }

    private static Argument<string> ShotArgument() => new("FILE") { Description = $"A shot, *.shot.json, or a file ending in {string.Join(", ", Importer.Endings)}." };

    private static void MakeFolder(string folder)
    {
        try
        {
            Directory.CreateDirectory(folder);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The folder {folder} cannot be made: {e.Message.TrimEnd('.')}. Choose another with --out.", e);
        }
    }
}
