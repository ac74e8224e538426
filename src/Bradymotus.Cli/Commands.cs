using System.CommandLine;
using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Render;
using Bradymotus.Render.Pictures;

namespace Bradymotus.Cli;

/// <summary>The commands that work on files. Those that serve are in <see cref="ServeCommands"/>.</summary>
internal static class Commands
{
    internal static IEnumerable<Command> All() => [CurveCommand(), SampleCommand(), RenderCommand(), SchemaCommand(), .. ServeCommands.All()];

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
        var fps = new Option<double?>("--fps") { Description = "For imported files: the frame rate to read them at." };
        var mesh = new Option<bool>("--mesh") { Description = "Adds the vertices, in world space." };
        var command = new Command("sample", "Writes where everything is on a frame, as JSON.") { file, frame, fps, mesh };
        command.SetAction(parsed =>
        {
            var at = parsed.GetValue(frame);
            if (!double.IsFinite(at))
            {
                throw new Refusal("The frame is not a finite number: give one.");
            }
            var state = new FrameState(new CompiledShot(ReadShot(parsed.GetValue(file)!)));
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
        var command = new Command("render", "Renders frames to PNG files.") { file, frames, size, quality, camera, folder, name, threads, samples };
        command.SetAction((parsed, cancel) =>
        {
            var steps = FrameSteps.Parse(parsed.GetValue(frames)!);
            var names = new FileNamePattern(parsed.GetValue(name));
            if (parsed.GetValue(threads) is < 1 || parsed.GetValue(samples) is < 1 or > 1 << 20)
            {
                throw new Refusal("The number of threads or samples cannot be used: give at least 1.");
            }
            var shot = ReadShot(parsed.GetValue(file)!);
            var pixels = parsed.GetValue(size) is { } text ? PictureSize.Parse(text) : shot.Size;
            pixels.Validate();
            var renderer = new FrameRenderer(shot, parsed.GetValue(camera));
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

    private static Command SchemaCommand()
    {
        var what = new Argument<string>("WHAT") { Description = "shot, curve or journal." };
        var command = new Command("schema", "Writes the JSON schema of a shot, a curve or a journal entry.") { what };
        command.SetAction(parsed => Console.WriteLine(Schemas.Of(parsed.GetValue(what)!)));
        return command;
    }

    internal static Shot ReadShot(string path)
    {
        if (!path.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
        {
            throw new Refusal($"{path} cannot be imported: files ending in .shot.json can.");
        }
        return ShotJson.ReadShot(ReadText(path));
    }

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

    private static Argument<string> ShotArgument() => new("FILE") { Description = "A shot, *.shot.json." };

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
