using System.CommandLine;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;

namespace Bradymotus.Cli;

/// <summary>What changes a shot.</summary>
internal static partial class Commands
{
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
}
