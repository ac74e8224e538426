using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Shaping;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Tests;

/// <summary>Shots and edits thrown by dice; some of the edits make no sense, and are to be refused.</summary>
internal sealed class SomeShots(Random dice)
{
    private int _ids;

    /// <summary>A curve of 2 to 9 keys with segments and handles of every kind; easings only where they are asked for.</summary>
    internal static Curve Curve(Random dice, bool easings = false, bool freeHandles = true)
    {
        Handle Handles(int side) => dice.Next(freeHandles ? 5 : 4) switch
        {
            0 => Handle.Auto,
            1 => Handle.Smooth,
            2 => Handle.Flat,
            3 => Handle.Straight,
            _ => new FreeHandle(side * dice.Next(0, 60) / 10.0, dice.Next(-30, 31) / 10.0),
        };
        Segment Segments() => dice.Next(easings ? 4 : 3) switch
        {
            0 => Segment.Hold,
            1 => Segment.Linear,
            2 => Segment.Bezier,
            _ => new EaseSegment((EaseFamily)dice.Next(10), (EaseDirection)dice.Next(3)),
        };
        var frame = dice.Next(-20, 20);
        var keys = new List<Key>();
        for (var i = dice.Next(2, 10); i > 0; i--)
        {
            keys.Add(new Key(frame, dice.Next(-50, 51) / 5.0, Segments(), Handles(-1), Handles(1)));
            frame += dice.Next(2, 15);
        }
        return new Curve([.. keys]);
    }

    internal Shot Shot(int most = 8, bool layers = true)
    {
        var shot = Core.Scene.Shot.Empty("Some") with { Materials = [new("m0", "Paint"), new("m1", "Rope")] };
        for (var i = dice.Next(1, most); i > 0; i--)
        {
            shot = shot with { Nodes = shot.Nodes.Add(Node(shot)) };
        }
        for (var i = layers && dice.Next(3) == 0 ? 2 : 0; i > 0; i--)
        {
            shot = shot with { Layers = shot.Layers.Add(Layer($"l{i}")) };
        }
        for (var i = dice.Next(6); i > 0; i--)
        {
            shot = shot.With(Channel(shot), new Channel(dice.Next(5), Curve(dice, easings: true)));
        }
        ShotRules.Validate(shot);
        return shot;
    }

    internal Node Node(Shot shot)
    {
        var id = $"n{_ids++}";
        var parent = dice.Next(2) == 0 || shot.Nodes.IsEmpty ? null : Pick(shot.Nodes).Id;
        Node node = dice.Next(8) switch
        {
            0 => new GroupNode { Id = id, Name = id },
            1 => new CameraNode { Id = id, Name = id },
            2 => new SunNode { Id = id, Name = id },
            3 => new ControlNode { Id = id, Name = id, Form = (ControlForm)dice.Next(4) },
            4 => new RepeatNode { Id = id, Name = id },
            5 when parent is null && shot.Nodes.FirstOrDefault(n => n is GroupNode or MeshNode or ControlNode) is { } of => new InstanceNode { Id = id, Name = id, Of = of.Id },
            6 => new MeshNode { Id = id, Name = id, Shape = new BoxShape(1, dice.Next(1, 3), 1, 2), Material = "m0", Deformers = [new TwistDeformer { Id = "t" }, new SquashDeformer { Id = "s" }] },
            _ => new MeshNode { Id = id, Name = id, Shape = new SphereShape(1, 6, 4), Material = dice.Next(2) == 0 ? "m1" : null },
        };
        var order = (RotationOrder)dice.Next(7);
        var turn = order == RotationOrder.Quaternion ? "quaternion" : "rotate";
        return node with
        {
            Parent = parent,
            RotationOrder = order,
            Channels = Shots.Channels(("transform.translate.x", dice.Next(-4, 5)), ($"transform.{turn}.y", dice.Next(-200, 200)), ($"transform.{turn}.z", dice.Next(-90, 90)), ("transform.scale.x", dice.Next(1, 4) * (dice.Next(3) - 1.5))),
        };
    }

    internal ChannelAddress Channel(Shot shot)
    {
        var owner = dice.Next(8) switch { 0 => "world", 1 when shot.Materials.Length > 0 => Pick(shot.Materials).Id, _ when shot.Nodes.Length > 0 => Pick(shot.Nodes).Id, _ => "world" };
        var address = new ChannelAddress(owner, Pick(shot.ChannelsOf(owner).Specs).Path);
        return shot.Layers.Length == 0 ? address : dice.Next(5) switch
        {
            0 or 1 => address.In(Pick(shot.Layers).Id),
            2 when dice.Next(4) == 0 => new(Pick(shot.Layers).Id, Core.Scene.Layer.Weight),
            _ => address,
        };
    }

    internal Layer Layer(string id) => new(id, id, (LayerMode)dice.Next(2), dice.Next(6) == 0, dice.Next(8) == 0, dice.Next(12) == 0);

    /// <summary>An edit of any kind, with ids that are mostly there.</summary>
    internal Edit Edit(Shot shot)
    {
        var keyed = shot.AllSetChannels().Where(c => c.Channel.Curve is not null).ToList();
        IReadOnlyList<KeyAddress> Keys() => keyed.Count == 0 ? [new(Channel(shot), 3)] :
            [.. Enumerable.Range(0, dice.Next(1, 3)).Select(_ => keyed[dice.Next(keyed.Count)]).SelectMany(c => c.Channel.Curve!.Keys.Where(_ => dice.Next(2) == 0).Select(k => new KeyAddress(c.Address, k.Frame)))];
        string Id() => shot.Nodes.IsEmpty || dice.Next(20) == 0 ? "nobody" : Pick(shot.Nodes).Id;
        IReadOnlyList<string> Ids() => [.. Enumerable.Range(0, dice.Next(1, 3)).Select(_ => Id())];
        double Value() => dice.Next(12) switch { 0 => 1e13, 1 => double.NaN, 2 => -1e-13, 3 => 1e12, _ => dice.Next(-50, 50) / 4.0 };
        double Frame() => dice.Next(12) switch { 0 => 0.1 + 0.2, 1 => 0.3, 2 => 5e-324, 3 => 2e9, _ => dice.Next(-20, 60) };
        return dice.Next(64) switch
        {
            0 => new SetValues([new(Channel(shot), Value()), new(Channel(shot), Value())]),
            1 => new SetKeys(Frame(), [new(Channel(shot), Value()), new(Channel(shot), Value())]),
            2 => new InsertKeys([new(keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot), Frame())]),
            3 => new PutKeys([new(Channel(shot), [.. Curve(dice, easings: true).Keys])]),
            4 => new HoldUntil(Frame(), [Channel(shot), Channel(shot)]),
            5 => new DuplicateNodes(Ids(), $"d{_ids++}"),
            6 => new RemoveKeys(Keys()),
            7 => new TransformKeys(Keys(), new(dice.Next(-9, 9), Value(), Frame(), dice.Next(4) / 2.0, 0, Value(), dice.Next(2) == 0)),
            8 => new StaggerKeys(Keys(), dice.Next(-4, 5)),
            9 => new ReverseKeys(Keys()),
            10 => new SetSegments(Keys(), new EaseSegment((EaseFamily)dice.Next(10), (EaseDirection)dice.Next(3), Value(), Value(), Value())),
            11 when Keys() is [var key, ..] => new SetHandle(key, (KeySide)dice.Next(2), new FreeHandle(Frame(), dice.Next(6) == 0 ? 1e308 : Value()), dice.Next(2) == 0),
            12 => new SetHandleKinds(Keys(), Handle.Smooth, Handle.Flat, dice.Next(2) == 0),
            13 => new SetExtrapolation([keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot)], new((ExtrapolationKind)dice.Next(5)), new((ExtrapolationKind)dice.Next(5), dice.Next(-1, 3))),
            14 => new SetCurve(Channel(shot), dice.Next(3) == 0 ? null : Curve(dice, easings: true)),
            15 => new AddNodes([Node(shot), Node(shot)]),
            16 => new RemoveNodes(Ids()),
            17 => new Rename(Id(), dice.Next(3) == 0 ? $"name {dice.Next(3)}" : new string('x', dice.Next(180, 220))),
            18 => new Reparent(Ids(), Frame(), dice.Next(3) == 0 ? null : Id(), dice.Next(3) == 0 ? Id() : null),
            19 => new SetRotationOrder(Ids(), (RotationOrder)dice.Next(8)),
            20 when shot.Nodes.OfType<MeshNode>().FirstOrDefault() is { } mesh => new ReplaceNode(mesh with { Shape = new CylinderShape(dice.Next(-1, 3), 1, 1, dice.Next(2000)), Deformers = [], Material = Pick<string?>(["m0", "m1", "m9", null]), RotationOrder = (RotationOrder)dice.Next(7) }),
            21 => new AddMaterial(new($"m{_ids++}", "Tar"), dice.Next(2) == 0 ? "m0" : null),
            22 => new RemoveMaterial($"m{dice.Next(4)}"),
            23 => new SetShot("Other", new FrameRate(dice.Next(-1, 60)), new FrameRange(0, dice.Next(-2, 90)), Camera: dice.Next(2) == 0 ? Id() : null),
            26 => new LockChannels([Channel(shot)], dice.Next(3) == 0),
            27 => new AddInstances(Ids(), $"a{_ids++}"),
            28 => dice.Next(2) == 0 ? new PlaceInstances(Id(), Ids(), $"b{_ids++}") : new HangInstances(Id(), [.. Ids().Select(i => new InstancePlace(i, 1, 0, 2, 1, 2))], $"b{_ids++}"),
            29 => new MakeReal(Ids(), $"c{_ids++}", Frame()),
            30 => new Unfollow(Ids()),
            31 => new DuplicateNodes(Ids(), $"f{_ids++}", Follow: true),
            32 => new KeepBelow(Id(), Affine.Rotation(new(0, Value(), 3), RotationOrder.Xyz)),
            33 => new SetMaps($"m{dice.Next(3)}", [.. Enumerable.Range(0, dice.Next(3)).Select(_ => Map())]),
            47 => new ShapeSegments(Keys(), dice.Next(4) == 0 ? Curve(dice) : CssEasing.Parse(Pick(["ease", "steps(3)", "linear(0, 0.5 20%, 1)"]))),
            48 => new PutMarker(new(dice.Next(5) == 0 ? "" : $"k{dice.Next(3)}", Frame(), new string('x', dice.Next(210)), (MarkerColor)dice.Next(6))),
            50 => new AddLayer(Layer($"l{_ids++}"), dice.Next(3) == 0 ? dice.Next(-1, 3) : null),
            51 => new RemoveLayer($"l{dice.Next(4)}"),
            52 => new SetLayer(Layer($"l{dice.Next(4)}")),
            53 => new MoveLayer($"l{dice.Next(4)}", dice.Next(-1, 4)),
            54 => new MergeLayer($"l{dice.Next(4)}"),
            55 => new BakeLayers(),
            61 => new TraceVertices(Id(), [.. Enumerable.Range(0, dice.Next(18)).Select(_ => dice.Next(-1, 400))]),
            60 => new MeanFindings([new((Checks.FindingKind)dice.Next(13), dice.Next(8) == 0 ? [] : [Id(), Id()])], dice.Next(4) > 0),
            59 => new MuteChannels([Channel(shot), keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot)], dice.Next(3) > 0, dice.Next(2) == 0 ? Frame() : null),
            58 => new PutMotion([new(Id(), "transform.translate.x", Curve(dice)), new(Id(), Channel(shot).Base.Path, Curve(dice))], dice.Next(-5, 5), Frame(), dice.Next(2) == 0 ? [] : Ids(), dice.Next(4) / 2.0, Value(), dice.Next(2) == 0, KeepPlace: dice.Next(2) == 0),
            56 => new PutSound(new($"s{dice.Next(3)}", "Bell", new string("0123456789abcdefg"[dice.Next(17)], 64), Value(), Frame(), dice.Next(2) == 0)),
            57 => new RemoveSounds([$"s{dice.Next(3)}"]),
            62 => new PutSet(new(dice.Next(5) == 0 ? "" : $"o{dice.Next(3)}", $"set {dice.Next(3)}", [.. Ids()])),
            63 => new RemoveSets([$"o{dice.Next(3)}"]),
            49 => new RemoveMarkers([$"k{dice.Next(3)}"]),
            34 => new MakeSeamless([keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot)]),
            35 => new UnrollRotations(Ids()),
            36 => new SimplifyKeys([keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot)], Math.Abs(Value()) / 10, dice.Next(2) == 0 ? Frame() : null),
            37 => new BakeKeys([keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot)], dice.Next(-10, 10), dice.Next(5, 40), dice.Next(4) / 2.0),
            38 => new SmoothKeys(Keys(), dice.Next(-1, 3)),
            39 => new RemoveIdleKeys([Channel(shot), keyed.Count > 0 ? keyed[0].Address : Channel(shot)]),
            40 => new AddNoise([Channel(shot)], dice.Next(-10, 10), dice.Next(5, 40), Value(), dice.Next(4), dice.Next()),
            41 => new Retime([keyed.Count > 0 ? keyed[dice.Next(keyed.Count)].Address : Channel(shot)], dice.Next(3) == 0 ? Curve(dice) : new Curve([new(0, 0), new(dice.Next(5, 20), dice.Next(5, 20))])),
            42 => new EasesToHandles(Keys()),
            43 => new ConvertRate(new FrameRate(dice.Next(0, 60)), dice.Next(2) == 0),
            44 => new HoldPose(Frame(), [Channel(shot), keyed.Count > 0 ? keyed[0].Address : Channel(shot)], dice.Next(-1, 9), dice.Next(2) == 0),
            45 => new KeyRange(dice.Next(-10, 10), dice.Next(0, 30), [new(Channel(shot), Value())], dice.Next(2) == 0 ? Frame() : null),
            46 => new MirrorPose(Ids(), Frame()),
            24 => new MovePivots([new(Id(), Value(), Value(), Value())], Frame()),
            _ => new Batch("two", [Edit(shot), Edit(shot)]),
        };
    }

    private SurfaceMap Map() => new((MapSlot)dice.Next(8), Pick<MapSource>(
    [
        new WoodPattern(), new ChecksPattern(), new BricksPattern(), new NoisePattern(),
        new ClipSource(new string("0123456789abcdefg"[dice.Next(17)], 64), "f.mp4", 4, 4, dice.Next(-1, 60), dice.Next(-1, 2000)),
        new PictureSource(new string("0123456789abcdefg"[dice.Next(17)], 64), "p.png", dice.Next(20_000), 4, (PicturePart)dice.Next(5), (PictureWrap)dice.Next(3)),
    ]), (MapProjection)dice.Next(7));

    private T Pick<T>(IReadOnlyList<T> items) => items[dice.Next(items.Count)];
}
