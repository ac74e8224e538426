using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

/// <summary>Two shots that look alike: one is right, the other is wrong in one thing.</summary>
/// <param name="Right">What is right about the one, in a line.</param>
/// <param name="Kind">What the other has wrong.</param>
/// <param name="Harmless">The shot that is right.</param>
/// <param name="Wrong">The other.</param>
internal sealed record Twins(string Right, FindingKind Kind, Shot Harmless, Shot Wrong)
{
    public override string ToString() => $"{Kind}: {Right}";
}

/// <summary>
/// Pairs for the checks. Those made by hand are always the same; every one of them can be thrown anew as well, with other sizes, rates, places
/// and speeds, which change nothing of what is right.
/// </summary>
internal static class CheckCorpus
{
    private const string Y = "transform.translate.y", X = "transform.translate.x", Z = "transform.translate.z";

    internal static IReadOnlyList<Twins> ByHand { get; } = [.. Seams(), .. Drifts(), .. Contacts(), .. Slides(), .. Moves(), .. Bounces(), .. Turns(), .. Followers()];

    /// <summary>A pair as others might have made it: somewhere else, larger or smaller, of another length in time, turned about, with what else may be in a shot.</summary>
    internal static Twins Thrown(Twins twins, Random dice)
    {
        // All lengths, and the gravity of all falls with them.
        var size = Math.Pow(10, dice.NextDouble() * 2 - 1);
        var stage = new GroupNode
        {
            Id = "stage",
            Name = "Stage",
            Channels = Channels((X, dice.Next(-50, 50)), (Y, dice.Next(-5, 5)), (Z, dice.Next(-50, 50)), ("transform.rotate.y", dice.Next(-180, 180)),
                ("transform.scale.x", size), ("transform.scale.y", size), ("transform.scale.z", size)),
        };
        var rate = new FrameRate(dice.Next(4) switch { 0 => 12, 1 => 25, 2 => 30, _ => 60 });
        var shift = dice.Next(-100, 1001);
        Shot Of(Shot shot)
        {
            var later = shot with { Range = new(shot.Range.First + shift, shot.Range.Last + shift), PlayRange = shot.PlayRange is { } play ? new(play.First + shift, play.Last + shift) : null, Rate = rate };
            foreach (var (address, channel) in shot.AllSetChannels().Where(c => c.Channel.Curve is not null).ToList())
            {
                later = later.With(address, channel with { Curve = new Curve([.. channel.Curve!.Keys.Select(k => k with { Frame = k.Frame + shift })], channel.Curve.Before, channel.Curve.After) });
            }
            return later with { Nodes = [stage, .. later.Nodes.Select(n => n.Parent is null ? n with { Parent = "stage" } : n)] };
        }
        return twins with { Harmless = Of(twins.Harmless), Wrong = Of(twins.Wrong) };
    }

    private static IEnumerable<Twins> Seams()
    {
        Shot Looping(int last, string path, params (double Frame, double Value)[] keys) => Ball(last).With(At($"ball/{path}"), Loop(Soft(keys)));
        yield return new("A swing comes back to where it began", FindingKind.LoopSeam, Looping(47, "transform.rotate.z", (0, -20), (12, 20), (24, -20)), Looping(47, "transform.rotate.z", (0, -20), (12, 20), (24, -12)));
        yield return new("A pendulum is slow where it turns", FindingKind.LoopSeam, Ball(47).With(At("ball/transform.rotate.z"), PingPong(Soft((0, -20), (16, 20)))), Ball(47).With(At("ball/transform.rotate.z"), PingPong(Straight((0, -20), (16, 20)))));
        yield return new("A conveyor runs evenly and starts again", FindingKind.LoopSeam, Ball(47).With(At($"ball/{X}"), Loop(Straight((0, 0), (24, 5)))), Looping(47, X, (0, 0), (12, 3), (24, 2)));
        yield return new("A texture scrolls by one whole tile", FindingKind.LoopSeam, Scrolling(1), Scrolling(0.7));
        yield return new("The sky turns once round", FindingKind.LoopSeam, Ball(47).With(At("world/sky.turn"), Loop(Straight((0, 0), (12, 170), (24, 360)))), Ball(47).With(At("world/sky.turn"), Loop(Straight((0, 0), (12, 170), (24, 300)))));
        yield return new("A turntable turns once round", FindingKind.LoopSeam, Ball(23).With(At("ball/transform.rotate.y"), Loop(Straight((0, 0), (24, 360)))), Ball(23).With(At("ball/transform.rotate.y"), Loop(Straight((0, 0), (24, 300)))));
        yield return new("A wiper goes to and fro in straight strokes", FindingKind.LoopSeam, Ball(47).With(At("ball/transform.rotate.z"), Loop(Straight((0, -40), (12, 40), (24, -40)))), Ball(47).With(At("ball/transform.rotate.z"), Loop(Straight((0, -40), (12, 40), (24, -30)))));
        yield return new("A lamp pulses from 0 to 1 and back", FindingKind.LoopSeam, Lit((0, 0), (10, 1), (20, 0)), Lit((0, 0), (10, 1), (20, 0.4)));
        yield return new("Two whole passes are played", FindingKind.LoopSeam, Looping(99, "transform.rotate.z", (0, -20), (12, 20), (24, -20)) with { PlayRange = new(0, 47) }, Looping(99, "transform.rotate.z", (0, -20), (12, 20), (24, -20)) with { PlayRange = new(0, 40) });
        yield return new("A climb goes on where it ends, pass by pass", FindingKind.LoopSeam, Ball(59).With(At($"ball/{Y}"), Offset(Straight((0, 0), (30, 2)))), Ball(59).With(At($"ball/{Y}"), Loop(Soft((0, 0), (15, 1.4), (30, 2)))));
        yield return new("A loop of 25 is played without its last frame", FindingKind.DoubledFrame, Looping(24, "transform.rotate.z", (0, -10), (12, 10), (25, -10)), Looping(25, "transform.rotate.z", (0, -10), (12, 10), (25, -10)));
        yield return new("A turntable of 90 frames ends a frame before it begins", FindingKind.DoubledFrame, Ball(89).With(At("ball/transform.rotate.y"), Straight((0, 0), (90, 360))), Ball(90).With(At("ball/transform.rotate.y"), Straight((0, 0), (90, 360))));
        yield return new("One spin from rest to rest is no turntable", FindingKind.DoubledFrame, Ball(48).With(At("ball/transform.rotate.y"), Soft((0, 0), (48, 360))), Ball(48).With(At("ball/transform.rotate.y"), Straight((0, 0), (48, 360))));
        yield return new("Rests where it begins and ends", FindingKind.DoubledFrame, Ball(24).With(At("ball/transform.rotate.z"), Soft((0, 0), (12, 30), (24, 0))), Ball(24).With(At("ball/transform.rotate.z"), Loop(Soft((0, -15), (12, 30), (24, -15)))).With(At("ball/transform.rotate.x"), Loop(Straight((0, 0), (6, 20), (18, -20), (24, 0)))));
    }

    private static IEnumerable<Twins> Drifts()
    {
        Shot Moving(string path, params (double Frame, double Value)[] keys) => Ball(80).With(At($"ball/{path}"), Soft(keys));
        yield return new("A slow wind-up goes the other way before the leap", FindingKind.Drift, Moving(X, (0, 0), (40, -0.4), (46, 5)), Moving(X, (0, 0), (40, 0.4), (46, 5)));
        yield return new("A moving hold goes on a little where the fast move has gone", FindingKind.Drift, Moving(X, (0, 0), (6, 5), (46, 5.3), (52, 10)), Moving(X, (0, 4.9), (6, 5), (46, 5.3), (52, 10)));
        yield return new("One axis travels evenly while another waits", FindingKind.Drift,
            Ball(60).With(At($"ball/{Y}"), Soft((0, 0), (40, 0), (48, 3))).With(At($"ball/{X}"), Straight((0, 0), (48, 4))),
            Ball(60).With(At($"ball/{Y}"), Soft((0, 0), (40, 0), (48, 3))).With(At($"ball/{X}"), Soft((0, 0), (48, 4))));
        yield return new("On an even way one key is out of line", FindingKind.Drift, Ball(80).With(At($"ball/{X}"), Straight((0, 0), (24, 4), (48, 4.2), (56, 9.33), (80, 13.33))), Ball(80).With(At($"ball/{X}"), Straight((0, 0), (24, 0), (48, 0.2), (56, 9.33), (80, 9.33))));
        yield return new("A stretched shape comes slowly back", FindingKind.Drift, Moving("transform.scale.y", (0, 1), (8, 1.6), (40, 1.45), (44, 1)), Moving("transform.scale.y", (0, 1), (40, 1.05), (44, 1.6)));
        yield return new("A door stays shut until it opens", FindingKind.Drift, Moving("transform.rotate.y", (0, 0), (40, 0), (48, 90)), Moving("transform.rotate.y", (0, 0), (40, 4), (48, 90)));
        yield return new("What falls gathers speed all the way", FindingKind.Drift, Moving(X, (0, 0), (10, 0.1), (20, 0.4), (30, 0.9), (40, 1.6)), Moving(X, (0, 0), (30, 0.1), (36, 1.6)));
        yield return new("A key holds its value until the move", FindingKind.Drift, Ball(60).With(At($"ball/{Z}"), new Channel(0, new Curve([new(0, 0, Segment.Hold), new(40, 0), new(46, -5)]))), Moving(Z, (0, 0), (40, -0.3), (46, -5)));
    }

    private static IEnumerable<Twins> Contacts()
    {
        // A box that drives past another of its size, or through it.
        Shot Boxes(double aside, double turn = 0, Shape? other = null) => Of(47, Mesh("a", new BoxShape(1, 1, 1, 1), (X, 0), (Y, 0.5), (Z, aside), ("transform.rotate.y", turn)), Mesh("b", other ?? new BoxShape(1, 1, 1, 1), (Y, 0.5), ("transform.rotate.y", turn)))
            .Keyed($"a/{X}", (0, -3), (47, 3));
        yield return new("Boxes of one height pass each other", FindingKind.Contact, Boxes(1.1), Boxes(0));
        yield return new("Boxes of one height pass with their sides overlapping nowhere", FindingKind.Contact, Boxes(-1.2), Boxes(-0.5));
        yield return new("Turned boxes of one height pass each other", FindingKind.Contact, Boxes(1.5, 30), Boxes(0.3, 30));
        yield return new("A cylinder of one height with the box stands aside", FindingKind.Contact, Boxes(1.2, 0, new CylinderShape(0.5, 0.5, 1, 24)), Boxes(0.1, 0, new CylinderShape(0.5, 0.5, 1, 24)));
        Shot Beams(double height) => Of(47, Mesh("a", new BoxShape(0.2, 0.2, 4, 1), (Y, height)), Mesh("b", new BoxShape(4, 0.2, 0.2, 1), (Y, 1))).Keyed($"a/{X}", (0, -4), (47, 4)).With(At($"b/{Z}"), new Channel(0));
        yield return new("A beam passes above another", FindingKind.Contact, Beams(1.25), Beams(1));
        yield return new("A beam passes below another", FindingKind.Contact, Beams(0.7), Beams(0.95));
        Shot Door(double jamb) => Of(47, Mesh("door", new BoxShape(1, 2, 0.06, 1), (Y, 1), (X, 0.5)) with { Parent = "hinge" }, new GroupNode { Id = "hinge", Name = "Hinge" }, Mesh("jamb", new BoxShape(0.2, 2, 0.2, 1), (Y, 1), (X, jamb))).Keyed("hinge/transform.rotate.y", (0, 60), (40, 0));
        yield return new("A door closes within its frame", FindingKind.Contact, Door(1.12), Door(0.98));
        Shot Blade(double nearest) => Of(47, Mesh("blade", new BoxShape(0.02, 0.6, 2, 1), (Y, 1)), Mesh("wall", new BoxShape(4, 3, 0.3, 1), (Y, 1.5))).Keyed($"blade/{Z}", (0, 3), (20, nearest), (47, 3));
        yield return new("A blade comes up to the wall", FindingKind.Contact, Blade(1.2), Blade(0.1));
        Shot Falls(double lowest) => Ground(Ball(47)).With(At($"ball/{Y}"), Straight((0, 2), (20, lowest), (40, 2)));
        yield return new("A ball comes down to the ground", FindingKind.Contact, Falls(0.5), Falls(0.4));
        // 3 m in a frame: on frame 10 above the board, on frame 11 below or beside it.
        Shot Shoots(double x) => Of(30, Mesh("ball", new SphereShape(0.2, 16, 12), (X, x)), Mesh("board", new BoxShape(3, 0.04, 3, 1))).With(At($"ball/{Y}"), Straight((0, 31.5), (30, -58.5)));
        yield return new("A shot passes beside a thin board", FindingKind.Contact, Shoots(2), Shoots(0.5));
        // On whole frames it is above the ground.
        Shot Between(double high, double lowest) => Ground(Ball(24)).With(At($"ball/{Y}"), Straight((0, high), (10.5, lowest), (21, high)));
        yield return new("It touches the ground between two frames", FindingKind.Contact, Between(3.5, 0.5), Between(12, 0.1));
        yield return new("A buoy lies in the water all the time", FindingKind.Contact, Ground(Ball(47)).With(At($"ball/{Y}"), Soft((0, -0.1), (24, 0.1), (47, -0.1))), Ground(Ball(47)).With(At($"ball/{Y}"), Soft((0, 0.9), (24, 0.1), (47, 0.9))));
        Shot Room(double to) => Of(47, Mesh("ball", new SphereShape(0.3, 16, 12), (Y, 1)), Mesh("room", new BoxShape(6, 4, 6, 1), (Y, 2))).Keyed($"ball/{X}", (0, -2), (47, to));
        yield return new("A ball flies about within a room", FindingKind.Contact, Room(2), Room(3));
        Shot Stone(string water) => (Of(47, Mesh("stone", new SphereShape(0.3, 16, 12)), Mesh("water", new PlaneShape(20, 20)) with { Material = "clear" }) with { Materials = [new("clear", "Clear", Channels((water, water == "look.opacity" ? 0.3 : water == "look.glass" ? 1 : 0.1)))] })
            .With(At($"stone/{Y}"), Straight((0, 3), (24, -1), (47, -2)));
        yield return new("A stone falls into clear water", FindingKind.Contact, Stone("look.glass"), Stone("look.roughness"));
        yield return new("Something falls through a mist", FindingKind.Contact, Stone("look.opacity"), Stone("look.roughness"));
        Shot Row(double x) => Of(47, new RepeatNode { Id = "row", Name = "Row", Channels = Channels(("repeat.count", 4), ("repeat.translate.x", 2)) }, Mesh("post", new CylinderShape(0.3, 0.3, 2, 24)) with { Parent = "row" }, Mesh("hammer", new BoxShape(0.4, 0.4, 0.4, 1), (X, x))).Keyed($"hammer/{Z}", (0, -3), (47, 3));
        yield return new("A hammer swings between the posts of a row", FindingKind.Contact, Row(3), Row(4));
        Shot Twin(double lowest) => Ground(Of(47, Mesh("ball", new SphereShape(0.5, 24, 16), (X, 5), (Y, 3)), new InstanceNode { Id = "twin", Name = "Twin", Of = "ball" })).Keyed($"twin/{Y}", (0, 2), (20, lowest), (40, 2));
        yield return new("An instance comes down to the ground", FindingKind.Contact, Twin(0.5), Twin(0.35));
        Shot Follows(double z) => Of(47, Mesh("ball", new SphereShape(0.5, 24, 16), (Z, 5)), Mesh("second", new SphereShape(0.5, 24, 16)) with { Follows = "ball", Parent = "aside" }, new GroupNode { Id = "aside", Name = "Aside", Channels = Channels((Z, z)) }, Mesh("wall", new BoxShape(0.3, 3, 3, 1))).Keyed($"ball/{X}", (0, -3), (47, 3));
        yield return new("What follows passes beside the wall", FindingKind.Contact, Follows(-10), Follows(-5));
        Shot Fan(double post) => Of(47, new GroupNode { Id = "hub", Name = "Hub" }, Mesh("vane", new BoxShape(2, 0.2, 0.05, 1), (X, 1)) with { Parent = "hub" }, Mesh("post", new CylinderShape(0.1, 0.1, 3, 16), (X, post))).With(At("hub/transform.rotate.y"), Straight((0, 20), (47, 200)));
        yield return new("A vane turns clear of the post", FindingKind.Contact, Fan(-2.3), Fan(-1.5));
    }

    private static IEnumerable<Twins> Slides()
    {
        Shot Rolls(double turns) => Ground(Ball(47)).With(At($"ball/{Y}"), new Channel(0.5)).With(At($"ball/{X}"), Straight((0, -3), (47, 3))).With(At("ball/transform.rotate.z"), Straight((0, 0), (47, -turns * 12 * 180 / Math.PI)));
        yield return new("A ball rolls as far as it goes", FindingKind.Slide, Rolls(1), Rolls(0.2));
        // Each is lifted before: what never moves is not asked.
        Shot Pushed(double way, double above = 0) => Ground(Of(71, Mesh("crate", new BoxShape(1, 1, 1, 1)))).With(At($"crate/{Y}"), Straight((0, 2), (20, 0.5 + above), (71, 0.5 + above))).With(At($"crate/{X}"), Straight((0, 0), (23, 0), (71, way)));
        yield return new("A crate stays where it was put down", FindingKind.Slide, Pushed(0), Pushed(8));
        yield return new("A crate a millimetre above the ground stays", FindingKind.Slide, Pushed(0, 0.001), Pushed(8, 0.001));
        Shot Foot(double slip) => Ground(Of(60, Mesh("foot", new BoxShape(0.1, 0.06, 0.26, 1)))).With(At($"foot/{Y}"), Straight((0, 0.3), (8, 0.03), (56, 0.03), (60, 0.3))).With(At($"foot/{Z}"), Straight((0, -0.3), (8, 0), (56, slip), (60, slip + 0.3)));
        yield return new("A foot stays where it is planted", FindingKind.Slide, Foot(0), Foot(0.047));
        Shot Sled(double own) => Ground(Of(47, Mesh("sled", new BoxShape(2, 0.2, 2, 1), (Y, 1)), Mesh("box", new BoxShape(0.4, 0.4, 0.4, 1), (Y, 0.3)) with { Parent = "sled" })).Keyed($"sled/{X}", (0, -3), (47, 3)).With(At($"box/{Z}"), Straight((0, -0.4), (47, -0.4 + own)));
        yield return new("A box rides on a sled", FindingKind.Slide, Sled(0), Sled(0.8));
        Shot Plate(double way) => Ground(Of(59, Mesh("plate", new CylinderShape(1, 1, 0.1, 48), (Y, 0.05)))).With(At("plate/transform.rotate.y"), Straight((0, 0), (60, 360))).With(At($"plate/{X}"), Straight((0, 0), (59, way)));
        yield return new("A plate turns on the spot", FindingKind.Slide, Plate(0), Plate(3));
        Shot Engine(double crawl) => Ground(Of(59, Mesh("engine", new BoxShape(1, 1, 1, 1), (Y, 0.5)))).With(At($"engine/{X}"), Straight([.. Enumerable.Range(0, 60).Select(f => ((double)f, 0.01 * (f % 2) + crawl * f))]));
        yield return new("An engine trembles where it stands", FindingKind.Slide, Engine(0), Engine(0.01));
    }

    private static IEnumerable<Twins> Moves()
    {
        Shot Lands(double handle) => Ball(47).With(At($"ball/{Y}"), new Channel(0, new Curve([new(0, 2), new(20, 0.5, In: new FreeHandle(-6, handle), Out: new FreeHandle(6, 0.6), Joined: false), new(40, 1.2)])));
        yield return new("It comes down to its contact at speed", FindingKind.Overshoot, Lands(1), Lands(-0.3));
        // It settles past its place: along the wall behind it that is nothing, at the one before it it goes into it.
        Shot Settles(bool wall)
        {
            var shot = Of(47, Mesh("door", new BoxShape(1, 2, 0.06, 1), (Y, 1)), Mesh("back", new BoxShape(8, 3, 0.2, 1), (Y, 1), (Z, -0.13)));
            shot = wall ? shot with { Nodes = shot.Nodes.Add(Mesh("wall", new BoxShape(0.2, 2, 1, 1), (X, 2.6), (Y, 1))) } : shot;
            return shot.With(At($"door/{X}"), new Channel(0, new Curve([new(0, 0), new(20, 2, In: new FreeHandle(-6, 0.3), Out: new FreeHandle(6, -0.05), Joined: false), new(40, 1.5)])));
        }
        yield return new("A sliding door settles past its place, along the wall behind it", FindingKind.Overshoot, Settles(false), Settles(true));

        Shot Thrown(Handle @in, Handle @out) => Ball(40).With(At($"ball/{X}"), Straight((0, 0), (40, 8))).With(At($"ball/{Y}"), new Channel(0, new Curve([new(0, 3, Out: Handle.Straight), new(20, 5, In: @in, Out: @out), new(40, 3, In: Handle.Straight)])));
        yield return new("An arc is round at its top", FindingKind.Kink, Thrown(Handle.Auto, Handle.Auto), Thrown(Handle.Straight, new FreeHandle(6, -3)));
        yield return new("It is thrown back by an edge as a mirror would", FindingKind.Kink, Thrown(Handle.Straight, Handle.Straight), Thrown(Handle.Straight, new FreeHandle(6, -4)));
        Shot Plots(Segment last) => Ball(60).With(At($"ball/{X}"), new Channel(0, new Curve([new(0, 0, Segment.Linear), new(15, 3, Segment.Linear), new(30, 3.001, Segment.Linear), new(45, 0, last), new(60, 1)])))
            .With(At($"ball/{Y}"), new Channel(0, new Curve([new(0, 0, Segment.Linear), new(15, 1, Segment.Linear), new(30, 3, Segment.Linear), new(45, 4, last), new(60, 0)])));
        yield return new("A plotter goes along straight lines", FindingKind.Kink, Plots(Segment.Linear), Plots(Segment.Bezier));

        Shot Squashed(double y, double xz) => new[] { ("x", xz), ("y", y), ("z", xz) }.Aggregate(Ball(47), (s, a) => s.With(At($"ball/transform.scale.{a.Item1}"), Soft((10, 1), (14, a.Item2), (20, 1))));
        yield return new("A squash keeps its volume", FindingKind.Volume, Squashed(0.5, Math.Sqrt(2)), Squashed(0.5, 1.1));
        yield return new("A progress bar fills along one axis", FindingKind.Volume, Ball(47).With(At("ball/transform.scale.x"), Soft((0, 1), (20, 3), (40, 1))), Squashed(0.6, 1));
        Shot Breath(double height) => Ground(Ball(47)).With(At($"ball/{Y}"), Straight((0, height + 1.5), (14, height), (28, height + 1.5))).With(At("ball/transform.scale.y"), Soft((10, 1), (14, 0.8), (20, 1)));
        yield return new("A chest breathes along one axis", FindingKind.Volume, Breath(2), Breath(0.4));
        Shot Stays(bool moves) => new[] { ("x", Math.Sqrt(2)), ("y", 0.5), ("z", Math.Sqrt(2)) }.Aggregate(Ball(47), (s, a) => s.With(At($"ball/transform.scale.{a.Item1}"), Soft((10, 1), (14, a.Item2)))).With(At($"ball/{X}"), Soft(moves ? [(0, 0), (14, 1), (40, 6)] : [(0, 0), (14, 6), (40, 6)]));
        yield return new("What was pressed flat lies flat", FindingKind.Volume, Stays(false), Stays(true));
        yield return new("A curtain is drawn and opened again", FindingKind.Volume, Ball(60).With(At("ball/transform.scale.z"), Soft((0, 1), (20, 0.2), (50, 1))), Squashed(1.5, 1));
        yield return new("A sapling grows", FindingKind.Volume, Ball(47).With(At("ball/transform.scale.y"), Soft((0, 1), (40, 2))), Squashed(1.3, 1.2));

        yield return new("Keys shape an arc", FindingKind.IdleKeys, Ball(47).With(At($"ball/{Y}"), Straight((0, 0), (10, 1), (20, 1.5), (47, 0))), Ball(47).With(At($"ball/{Y}"), Straight((0, 0), (10, 1), (20, 2), (47, 0))));
        yield return new("One key says where it is", FindingKind.IdleKeys, Ball(47).With(At($"ball/{Z}"), Soft((10, 3))), Ball(47).With(At($"ball/{Z}"), Soft((0, 3), (20, 3))));
    }

    private static IEnumerable<Twins> Bounces()
    {
        // g = 0.04 m a frame².
        Shot Hops(params (double Height, double Frames)[] hops) => Ball(100).With(At($"ball/{Y}"), new Channel(0, new Curve([.. Flight(0.5, 2, 10, hops)])));
        yield return new("Heights and times fit one gravity", FindingKind.Bounce, Hops((1, 14), (0.5, 10), (0.25, 7)), Hops((1, 14), (0.5, 20), (0.25, 7)));
        yield return new("Each hop is half as high as the one before", FindingKind.Bounce, Hops((1, 14), (0.5, 10), (0.25, 7), (0.125, 5)), Hops((1, 14), (0.95, 14), (0.47, 10), (0.23, 7)));
        // The hand takes the ball up a little and pushes it down.
        Curve Dribble() => new([new(0, 1.2, null, null, new FreeHandle(2, 0)), .. Enumerable.Range(0, 4).SelectMany(i => new Key[] { new(8 + 16 * i, 0.5, null, new FreeHandle(-1, 0.6), new FreeHandle(1, 0.5), false), new(14 + 16 * i, 1.2, null, new FreeHandle(-3, 0), new FreeHandle(3, 0)), new(18 + 16 * i, 1.2, null, new FreeHandle(-2, 0), new FreeHandle(3, 0)) })]);
        yield return new("A ball is dribbled by a hand", FindingKind.Bounce, Ball(80).With(At($"ball/{Y}"), new Channel(0, Dribble())), Hops((1, 24), (0.5, 10), (0.25, 7)));
        yield return new("A piston goes up and down in straight strokes", FindingKind.Bounce, Ball(80).With(At($"ball/{Y}"), Straight([.. Enumerable.Range(0, 11).Select(i => (8.0 * i, i % 2 == 0 ? 2.0 : 0.5))])),
            Ball(100).With(At($"ball/{Y}"), new Channel(0, new Curve([new(0, 2.5, Segment.Linear), .. Flight(0.5, 2, 10, (1, 14), (0.5, 10), (0.25, 7)).Skip(1)]))));
        Shot Stairs(params double[] frames)
        {
            // Down four steps of 0.5 m, each hop 0.5 m above the step that it leaves: √(2·0.5) + √(2·1) over √g.
            var keys = new List<Key>();
            var at = 0.0;
            for (var i = 0; i < frames.Length; i++)
            {
                var (up, down) = (frames[i] / (1 + Math.Sqrt(2)), frames[i] * Math.Sqrt(2) / (1 + Math.Sqrt(2)));
                var floor = 2.5 - 0.5 * i;
                keys.Add(new(at, floor, null, i == 0 ? null : new FreeHandle(-frames[i - 1] * Math.Sqrt(2) / (1 + Math.Sqrt(2)) / 3, 2.0 / 3), new FreeHandle(up / 3, 1 / 3.0), false));
                keys.Add(new(at + up, floor + 0.5, null, new FreeHandle(-up / 3, 0), new FreeHandle(down / 3, 0)));
                at += frames[i];
            }
            keys.Add(new(at, 2.5 - 0.5 * frames.Length, null, new FreeHandle(-frames[^1] * Math.Sqrt(2) / (1 + Math.Sqrt(2)) / 3, 2.0 / 3), null, false));
            return Ball(100).With(At($"ball/{Y}"), new Channel(0, new Curve([.. keys.Select(k => k with { Frame = k.Frame + 5 })])));
        }
        yield return new("Down the stairs every hop takes as long", FindingKind.Bounce, Stairs(12, 12, 12, 12), Stairs(12, 12, 24, 12));
        // Contacts between whole frames: 9.6 frames down from 2 m, so 13.6 for a hop of 1 m.
        Shot Odd(double second) => Ball(100).With(At($"ball/{Y}"), new Channel(0, new Curve([.. Flight(0.5, 2, 9.6, (1, 13.6), (0.5, second), (0.25, 6.8))])));
        yield return new("It strikes between whole frames, in time", FindingKind.Bounce, Odd(9.6), Odd(25.4));
        yield return new("On the moon everything falls as slowly", FindingKind.Bounce, Ball(250).With(At($"ball/{Y}"), new Channel(0, new Curve([.. Flight(0.5, 2, 25, (1, 35.3), (0.5, 25), (0.25, 17.7))]))), Ball(250).With(At($"ball/{Y}"), new Channel(0, new Curve([.. Flight(0.5, 2, 25, (1, 35.3), (0.5, 10), (0.25, 17.7))]))));
    }

    private static IEnumerable<Twins> Turns()
    {
        yield return new("A turntable turns evenly", FindingKind.Spacing, Ball(89).With(At("ball/transform.rotate.y"), Loop(Straight((0, 0), (90, 360)))), Ball(89).With(At("ball/transform.rotate.y"), Loop(Soft((0, 0), (90, 360)))));
        yield return new("A wheel starts, turns twice and stops", FindingKind.Spacing, Ball(359).With(At("ball/transform.rotate.y"), Soft((100, 0), (200, 720))), Ball(359).With(At("ball/transform.rotate.y"), Soft((0, 0), (360, 720))));
        Shot Route(Func<double, double> when)
        {
            Curve Of(Func<double, double> of) => new([.. Enumerable.Range(0, 17).Select(i => new Key(96 * when(i / 16.0), 5 * of(i * Math.PI / 8)))], after: new(ExtrapolationKind.Loop));
            return Ball(95).With(At($"ball/{X}"), new Channel(0, CurveTools.Seamless(Of(a => 1.4 * Math.Cos(a))))).With(At($"ball/{Z}"), new Channel(0, CurveTools.Seamless(Of(Math.Sin))));
        }
        // Kepler's equation: the time at an eccentric anomaly E is (E − e·sin E) / 2π.
        yield return new("A planet is fastest where it is nearest to its sun", FindingKind.Spacing, Route(u => u - 0.45 * Math.Sin(2 * Math.PI * u) / (2 * Math.PI)), Route(u => u < 0.5 ? 0.6 * u / 0.5 * (u < 0.25 ? 0.4 : 1) + (u < 0.25 ? 0 : 0) : 0.6 + 0.8 * (u - 0.5)));
        yield return new("A route is travelled evenly", FindingKind.Spacing, Route(u => u), Route(u => u - 0.06 * Math.Sin(8 * Math.PI * u)));

        yield return new("An angle goes on past half a turn", FindingKind.Flip, Ball(19).With(At("ball/transform.rotate.y"), Straight([.. Enumerable.Range(0, 20).Select(f => ((double)f, 170.0 + f + 0.02 * f * f))])), Ball(19).With(At("ball/transform.rotate.y"), Straight([.. Enumerable.Range(0, 20).Select(f => ((double)f, 170 + f > 180 ? f - 190.0 + 0.02 * f * f : 170 + f + 0.02 * f * f))])));
        Shot Turned(double x, double y, double z) => new[] { ("x", 10.0, x), ("y", 70, y), ("z", -5, z) }.Aggregate(Ball(47), (s, a) => s.With(At($"ball/transform.rotate.{a.Item1}"), Soft((0, a.Item2), (24, a.Item3))));
        yield return new("A looped turntable begins its next pass", FindingKind.Flip, Ball(71).With(At("ball/transform.rotate.y"), Loop(Straight((0, 0), (24, 360)))), Ball(71).With(At("ball/transform.rotate.y"), Straight((0, 0), (24, 360), (25, 15), (71, 90))));
        yield return new("A pose is reached by its near angles", FindingKind.Flip, Turned(20, 85, 3), Turned(-160, 95, -177));
        Shot Quaternions(double sign)
        {
            var half = 20 * Math.PI / 180;
            var shot = Ball(47) with { };
            shot = shot with { Nodes = [shot.Nodes[0] with { RotationOrder = RotationOrder.Quaternion }] };
            return new[] { ("x", 0.0, Math.Sin(half)), ("y", 0, 0), ("z", 0, 0), ("w", 1, Math.Cos(half)) }.Aggregate(shot, (s, a) => s.With(At($"ball/transform.quaternion.{a.Item1}"), Soft((0, a.Item2), (20, sign * a.Item3), (40, sign * a.Item2))));
        }
        yield return new("A quaternion keeps its sign", FindingKind.Flip, Quaternions(1), Quaternions(-1));
        yield return new("A needle goes on past the end of its dial", FindingKind.Flip, Ball(47).With(At("ball/transform.rotate.z"), Straight((0, 300), (20, 350), (30, 370))), Ball(47).With(At("ball/transform.rotate.z"), Straight((0, 300), (20, 350), (30, 10))));
        yield return new("A crank turns one way and back", FindingKind.Flip, Ball(47).With(At("ball/transform.rotate.z"), Soft((0, 0), (20, 240), (40, 0))), Ball(47).With(At("ball/transform.rotate.z"), Soft((0, 100), (20, 340), (40, 20))));
    }

    /// <summary>Of two balls the second follows the first, but for what it has itself.</summary>
    private static IEnumerable<Twins> Followers()
    {
        static Shot Two(int last, Shot shot) => shot with { Nodes = shot.Nodes.Add(Mesh("second", new SphereShape(0.5, 24, 16)) with { Follows = "ball", Parent = "aside" }).Add(new GroupNode { Id = "aside", Name = "Aside", Channels = Channels((Z, 6)) }), Range = new(0, last) };
        Shot Squashes(double xz) => new[] { ("x", Math.Sqrt(2)), ("y", 0.5), ("z", Math.Sqrt(2)) }.Aggregate(Two(47, Ball(47)), (s, a) => s.With(At($"ball/transform.scale.{a.Item1}"), Soft((10, 1), (14, a.Item2), (20, 1)))).With(At("second/transform.scale.x"), Soft((10, 1), (14, xz), (20, 1)));
        yield return new("What follows a squash keeps its volume", FindingKind.Volume, Squashes(Math.Sqrt(2)), Squashes(0.7));
        Shot Turns(double x, double z) => Two(47, Ball(47).With(At("ball/transform.rotate.y"), Soft((0, 70), (24, 95)))).With(At("second/transform.rotate.x"), Soft((0, 10), (24, x))).With(At("second/transform.rotate.z"), Soft((0, -5), (24, z)));
        yield return new("What follows one angle reaches its pose by the near ones", FindingKind.Flip, Turns(20, 3), Turns(-160, -177));
        // The first has nothing below it; the second touches a floor where the dip begins.
        Shot Lands(double ground) => Two(60, Ball(60).With(At($"ball/{Y}"), new Channel(0, new Curve([new(0, 2), new(20, 0.5, In: new FreeHandle(-6, 0.3), Out: new FreeHandle(6, -0.3)), new(40, 0.5)]))))
            is var shot ? shot with { Nodes = shot.Nodes.Add(Mesh("floor", new BoxShape(4, 1, 4, 1), (Y, ground), (Z, 6))) } : null!;
        yield return new("What follows a dip dips into the air", FindingKind.Overshoot, Lands(-2), Lands(-0.5));
    }

    private static Shot Of(int last, params Node[] nodes) => Shot.Empty("Pair") with { Range = new(0, last), Nodes = [.. nodes] };

    private static Shot Ball(int last) => Of(last, new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(0.5, 24, 16) });

    private static Shot Ground(Shot shot) => shot with { Nodes = shot.Nodes.Add(new MeshNode { Id = "ground", Name = "Ground", Shape = new PlaneShape(40, 40) }) };

    private static MeshNode Mesh(string id, Shape shape, params (string Path, double Value)[] values) => new() { Id = id, Name = id, Shape = shape, Channels = Channels(values) };

    private static Channel Soft(params (double Frame, double Value)[] keys) => new(0, new Curve([.. keys.Select(k => new Key(k.Frame, k.Value))]));

    /// <summary>From key to key in straight lines; without keys where nothing changes.</summary>
    private static Channel Straight(params (double Frame, double Value)[] keys) => keys.All(k => k.Value == keys[0].Value) ? new(keys[0].Value) : new(0, new Curve([.. keys.Select(k => new Key(k.Frame, k.Value, Segment.Linear))]));

    private static Channel Loop(Channel channel) => Repeated(channel, ExtrapolationKind.Loop);

    private static Channel PingPong(Channel channel) => Repeated(channel, ExtrapolationKind.PingPong);

    private static Channel Offset(Channel channel) => Repeated(channel, ExtrapolationKind.LoopOffset);

    private static Channel Repeated(Channel channel, ExtrapolationKind kind) => channel with { Curve = new Curve(channel.Curve!.Keys, channel.Curve.Before, new(kind)) };

    private static Shot Scrolling(double tiles) => (Ball(47) with { Materials = [new("belt", "Belt") { Maps = [new(MapSlot.Color, new ChecksPattern())] }] }).With(At("belt/map.color.offset.x"), Loop(Straight((0, 0), (12, 0.4 * tiles), (24, tiles))));

    private static Shot Lit(params (double Frame, double Value)[] keys) => (Ball(47) with { Materials = [new("glow", "Glow")] }).With(At("glow/look.emission"), Loop(Straight(keys)));
}
