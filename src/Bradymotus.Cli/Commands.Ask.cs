using System.CommandLine;
using System.Globalization;
using Bradymotus.Core;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Cli;

/// <summary>What answers a question and changes nothing, or mends what it has found.</summary>
internal static partial class Commands
{
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

    private static Command SchemaCommand()
    {
        var what = new Argument<string>("WHAT") { Description = "shot, curve, journal or saved." };
        var command = new Command("schema", "Writes the JSON schema of a shot, a curve, a journal entry, or a saved pose or motion.") { what };
        command.SetAction(parsed => Console.WriteLine(Schemas.Of(parsed.GetValue(what)!)));
        return command;
    }
}
