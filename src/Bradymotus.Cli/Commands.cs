using System.CommandLine;
using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
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
    internal static IEnumerable<Command> All() => [CurveCommand(), SampleCommand(), RenderCommand(), ImportCommand(), ExportCommand(), CheckCommand(),
        EditCommand(), KeepCommand(), PutCommand(), SchemaCommand(), .. ServeCommands.All()];

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
        var mend = new Option<string?>("--mend") { Description = "Mends what can be mended, writes the shot there, and says what is left." };
        var command = new Command("check", "Reads the motion and writes what is probably not meant, as a JSON array of findings.") { file, fps, mend };
        command.SetAction((parsed, cancel) =>
        {
            var path = parsed.GetValue(file)!;
            var (shot, meshes) = Open(path, parsed.GetValue(fps));
            var found = MotionChecks.Of(shot, meshes, cancel);
            if (parsed.GetValue(mend) is { } target)
            {
                found = Mended(ref shot, found, meshes, cancel);
                Save(path, target, shot);
            }
            Console.WriteLine(ShotJson.Write(found.ToArray()));
            return Task.FromResult(0);
        });
        return command;
    }

    /// <summary>Mends what can be mended, once.</summary>
    /// <returns>What is left.</returns>
    private static IReadOnlyList<Finding> Mended(ref Shot shot, IReadOnlyList<Finding> found, ShotAssets meshes, CancellationToken cancel)
    {
        if (!found.Any(f => f.Mend is not null))
        {
            return found;
        }
        try
        {
            shot = Mending.Of(shot, found, cancel).Apply(shot, cancel);
            return MotionChecks.Of(shot, meshes, cancel);
        }
        catch (Refusal)
        {
            // None of them can be, after all.
            return found;
        }
    }

    private static Command EditCommand()
    {
        var file = new Argument<string>("FILE") { Description = "A shot, *.shot.json." };
        var edits = new Argument<string>("EDITS") { Description = "A JSON array of edits, as in the journal; - reads it from the input." };
        var target = OutOption("The shot to write; the file itself without it.", required: false);
        var command = new Command("edit", "Makes changes in a shot: keys, curve tools, layers and all else that the program can undo.") { file, edits, target };
        command.SetAction((parsed, cancel) =>
        {
            var path = parsed.GetValue(edits)!;
            var changes = ShotJson.Read<Edit[]>(path == "-" ? Console.In.ReadToEnd() : ReadText(path), "list of edits");
            Change(parsed.GetValue(file)!, parsed.GetValue(target), shot =>
            {
                for (var i = 0; i < changes.Length; i++)
                {
                    try
                    {
                        shot = changes[i].Apply(shot, cancel);
                    }
                    catch (Refusal refusal) when (changes.Length > 1)
                    {
                        throw new Refusal($"Edit {i + 1} of {changes.Length} cannot be made, so nothing was written: {refusal.Message}", refusal);
                    }
                }
                return shot;
            });
            return Task.FromResult(0);
        });
        return command;
    }

    private static Command KeepCommand()
    {
        var file = ShotArgument();
        var nodes = NodesOption("The name of an object to take it from, with all below it; may be given several times. Without it everything is.");
        var frame = new Option<double?>("--frame") { Description = "Keeps the pose of this frame; without it the motion is kept." };
        var layer = new Option<string?>("--layer") { Description = "The name of the layer whose motion it is; below all layers without it." };
        var target = OutOption("The file to write, X.pose.json or X.motion.json.");
        var fps = FpsOption();
        var command = new Command("keep", "Keeps a pose or a motion of a shot as a file.") { file, nodes, frame, layer, target, fps };
        command.SetAction(parsed =>
        {
            var (shot, meshes) = Open(parsed.GetValue(file)!, parsed.GetValue(fps));
            var ids = NodesOf(shot, parsed.GetValue(nodes)) ?? [.. shot.Nodes.Where(n => n.Parent is null).Select(n => n.Id)];
            Saved saved;
            if (parsed.GetValue(frame) is { } at)
            {
                if (!double.IsFinite(at))
                {
                    throw new Refusal("The frame is not a finite number: give one.");
                }
                var state = new FrameState(new CompiledShot(shot), meshes);
                state.Evaluate(at);
                saved = Saved.PoseOf(state, ids);
            }
            else
            {
                saved = Saved.MotionOf(shot, ids, LayerOf(shot, parsed.GetValue(layer)));
            }
            saved.Validate();
            WriteText(parsed.GetValue(target)!, ShotJson.Write(saved, indented: true));
            Console.WriteLine($"{parsed.GetValue(target)}: {saved.Count} channels of {saved.Objects.Count} objects");
        });
        return command;
    }

    private static Command PutCommand()
    {
        var file = new Argument<string>("FILE") { Description = "A shot, *.shot.json." };
        var saved = new Argument<string>("SAVED") { Description = "A saved pose or motion." };
        var frame = new Option<double>("--frame") { Required = true, Description = "The frame that it comes to." };
        var nodes = NodesOption("The name of an object to put it onto, with all below it; may be given several times. Without it what has the same names gets it.");
        var share = new Option<double>("--share") { DefaultValueFactory = _ => 1, Description = "How much of a pose: 0 is how it was, 1 the pose." };
        var time = new Option<double>("--time") { DefaultValueFactory = _ => 1, Description = "How much longer a motion takes." };
        var size = new Option<double>("--size") { DefaultValueFactory = _ => 1, Description = "How much further the positions of a motion go." };
        var mirror = new Option<bool>("--mirror") { Description = "Left for right, by name." };
        var keepPlace = new Option<bool>("--keep-place") { Description = "A motion begins where each object is." };
        var layer = new Option<string?>("--layer") { Description = "The name of the layer that it goes into; below all layers without it." };
        var target = OutOption("The shot to write; the file itself without it.", required: false);
        var command = new Command("put", "Puts a saved pose or motion onto objects of a shot, as keys.") { file, saved, frame, nodes, share, time, size, mirror, keepPlace, layer, target };
        command.SetAction((parsed, cancel) =>
        {
            var kept = ShotJson.ReadSaved(ReadText(parsed.GetValue(saved)!));
            var (at, isMirrored) = (parsed.GetValue(frame), parsed.GetValue(mirror));
            Change(parsed.GetValue(file)!, parsed.GetValue(target), shot =>
            {
                var (ids, into) = (NodesOf(shot, parsed.GetValue(nodes)) ?? [], LayerOf(shot, parsed.GetValue(layer)));
                var (edit, report) = kept is SavedMotion motion
                    ? Of(motion.On(at, ids, parsed.GetValue(time), parsed.GetValue(size), isMirrored, into, parsed.GetValue(keepPlace)))
                    : PoseEdit((SavedPose)kept);
                foreach (var line in report)
                {
                    Console.WriteLine(line);
                }
                return edit?.Apply(shot, cancel) ?? shot;

                (Edit?, IReadOnlyList<string>) Of(PutMotion put) => (put, put.Report(shot));
                (Edit?, IReadOnlyList<string>) PoseEdit(SavedPose pose)
                {
                    var fits = pose.Parts.Fits(shot, ids, isMirrored, into).ToList();
                    if (fits.Count == 0)
                    {
                        throw pose.Parts.NoneFits("pose");
                    }
                    var values = SavedPose.Values(fits, a => CompiledShot.ValueOf(shot, a, at), parsed.GetValue(share));
                    return (Posing.Set(shot, values, at, autoKey: true, into).Edit, pose.Parts.Report(fits));
                }
            });
            return Task.FromResult(0);
        });
        return command;
    }

    /// <summary>Reads a shot, changes it, and writes it whole or not at all.</summary>
    private static void Change(string from, string? target, Func<Shot, Shot> change)
    {
        Save(from, target ?? from, change(ShotJson.ReadShot(ReadText(Shots(from)))));
        Console.WriteLine(target ?? from);
    }

    private static string Shots(string path) => path.EndsWith(".json", StringComparison.OrdinalIgnoreCase) ? path
        : throw new Refusal($"{path} is no *.shot.json: make one of a file of another program with ./bradymotus import.");

    /// <summary>Writes a changed shot, with its assets beside it.</summary>
    private static void Save(string from, string to, Shot shot)
    {
        _ = (Shots(from), Shots(to));
        ShotRules.Validate(shot);
        var (own, other) = (new AssetFolder(AssetFolder.Beside(from)), new AssetFolder(AssetFolder.Beside(to)));
        foreach (var asset in ShotZip.AssetsOf(shot))
        {
            if (!other.Has(asset) && own.Read(asset) is { } bytes)
            {
                other.Put(Asset.Of(bytes));
            }
        }
        WriteText(to, ShotJson.Write(shot, indented: true));
    }

    private static IReadOnlyList<string>? NodesOf(Shot shot, string[]? names) => names is { Length: > 0 }
        ? [.. names.Select(n => (shot.FindNode(n) ?? shot.Nodes.FirstOrDefault(o => o.Name == n) ?? throw new Refusal($"There is no object “{n}” in the shot: check the name.")).Id)]
        : null;

    private static string? LayerOf(Shot shot, string? name) => name is null
        ? null
        : (shot.Layers.FirstOrDefault(l => l.Id == name || l.Name == name) ?? throw new Refusal($"There is no layer “{name}” in the shot: check the name.")).Id;

    private static Command SchemaCommand()
    {
        var what = new Argument<string>("WHAT") { Description = "shot, curve, journal or saved." };
        var command = new Command("schema", "Writes the JSON schema of a shot, a curve, a journal entry, or a saved pose or motion.") { what };
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

    /// <summary>A shot, or what can be imported, with its meshes and pictures.</summary>
    /// <param name="fps">For what is imported: its frame rate.</param>
    internal static (Shot Shot, ShotAssets Assets) Open(string path, double? fps = null)
    {
        if (path.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
        {
            return (ShotJson.ReadShot(ReadText(path)), new AssetFolder(AssetFolder.Beside(path)).ForShots);
        }
        var imported = Importer.Read(new FileOnDisk(path), new(RateOf(fps)));
        // Beside the answer, which may be for a program.
        foreach (var skipped in imported.Report.Skipped)
        {
            Console.Error.WriteLine($"- {skipped}");
        }
        return (imported.Shot, imported.ToAssets());
    }

    private static FrameRate RateOf(double? fps) => fps is { } given ? FrameRate.Nearest(given) : FrameRate.Film;

    private static Option<string[]> NodesOption(string description) => new("--node") { Description = description };

    private static Option<string?> OutOption(string description, bool required = true) => new("--out") { Required = required, Description = description };

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

    private static void WriteText(string path, string text) => Write(path, System.Text.Encoding.UTF8.GetBytes(text));

    /// <summary>Writes a file whole, or not at all.</summary>
    private static void Write(string path, byte[] bytes)
    {
        var part = $"{path}.{Guid.NewGuid():N}.part";
        try
        {
            MakeFolder(Path.GetDirectoryName(Path.GetFullPath(path))!);
            File.WriteAllBytes(part, bytes);
            File.Move(part, path, overwrite: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new Refusal($"The file {path} cannot be written: {e.Message.TrimEnd('.')}.", e);
        }
        finally
        {
            File.Delete(part);
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
