using System.Collections.Immutable;
using System.Globalization;
using System.Text.Json;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Shaping;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Tests;

public class SceneTests
{
    private static readonly Node[] Kinds =
    [
        new GroupNode { Id = "g", Name = "G" }, new MeshNode { Id = "m", Name = "M", Shape = new BoxShape() }, new CameraNode { Id = "c", Name = "C" },
        new SunNode { Id = "s", Name = "S" }, new LampNode { Id = "l", Name = "L" },
        new MeshNode { Id = "b", Name = "B", Shape = new BoxShape(), Deformers = [new TwistDeformer { Id = "t" }, new SquashDeformer { Id = "q" }] },
    ];

    public static TheoryData<string> Owners() => [.. Kinds.Select(k => k.Id), "world", "look"];

    private static Shot EveryKind() => Shot.Empty("All") with { Nodes = [.. Kinds], Materials = [new("look", "Look")] };

    [Theory]
    [MemberData(nameof(Owners))]
    public void Every_channel_has_a_path_of_its_own_a_label_and_a_sensible_default(string owner)
    {
        var specs = EveryKind().ChannelsOf(owner).Specs;
        Assert.Equal(specs.Length, specs.Select(s => s.Path).Distinct().Count());
        Assert.All(specs, s =>
        {
            Assert.NotEmpty(s.Label);
            Assert.Matches("^[a-z][A-Za-z0-9]*(\\.[A-Za-z0-9]+)*$", s.Path);
            Assert.InRange(s.Default, s.Min ?? double.MinValue, s.Max ?? double.MaxValue);
            Assert.True(s.Step > 0);
            Assert.Contains(s.Unit, new[] { "", "m", "°", "×", "%", "W", "stops", "mm", "frames", "K" });
        });
        // Three of a colour stand together, as the panels show them.
        foreach (var red in specs.Where(s => s.Path.EndsWith(".r", StringComparison.Ordinal)))
        {
            var i = specs.IndexOf(red);
            Assert.Equal([red.Path[..^1] + "g", red.Path[..^1] + "b"], specs.Skip(i + 1).Take(2).Select(s => s.Path));
        }
    }

    [Theory]
    [MemberData(nameof(Owners))]
    public void Every_channel_can_be_set_keyed_and_read_back(string owner)
    {
        var shot = EveryKind();
        foreach (var spec in shot.ChannelsOf(owner))
        {
            var address = new ChannelAddress(owner, spec.Path);
            Assert.Equal(new Channel(spec.Default), shot.Channel(address));
            var keyed = new SetKeys(3, [new(address, spec.Default)]).Apply(new SetKeys(9, [new(address, spec.Default)]).Apply(shot));
            Assert.Equal([3, 9], keyed.Channel(address).Curve!.Keys.Select(k => k.Frame));
            Assert.Equal(keyed.Channel(address).Curve!.Keys, ShotJson.ReadShot(ShotJson.Write(keyed)).Channel(address).Curve!.Keys);
            Assert.Equal(spec.Default, new FrameStateOf(keyed, 5)[address]);
        }
        Assert.Throws<Refusal>(() => shot.Channel(new(owner, "nothing.of.that.name")));
    }

    private sealed class FrameStateOf
    {
        private readonly FrameState _state;

        public FrameStateOf(Shot shot, double frame)
        {
            _state = new FrameState(new CompiledShot(shot));
            _state.Evaluate(frame);
        }

        public double this[ChannelAddress address] => _state.Value(address);
    }

    [Fact]
    public void A_path_is_the_names_from_the_root_down()
    {
        var shot = Shots.Crane();
        Assert.Equal("/Base/Arm/Hook", shot.PathOf(shot.Node("hook")));
        Assert.Equal("/Base", shot.PathOf(shot.Node("base")));
        Assert.Equal(["arm", "base", "hook"], shot.Descendants(["base"]).Order());
        Assert.Equal(["hook"], shot.Descendants(["hook"]));
    }

    [Fact]
    public void The_camera_that_renders_is_the_one_asked_for_or_the_shots_or_the_first()
    {
        var shot = Shot.Empty("Two") with { Nodes = [new CameraNode { Id = "a", Name = "Wide" }, new CameraNode { Id = "b", Name = "Close" }] };
        Assert.Equal("a", shot.RenderCamera()!.Id);
        Assert.Equal("b", (shot with { Camera = "b" }).RenderCamera()!.Id);
        Assert.Equal("b", shot.RenderCamera("Close")!.Id);
        Assert.Equal("a", (shot with { Camera = "b" }).RenderCamera("a")!.Id);
        Assert.Contains("Wide, Close", Assert.Throws<Refusal>(() => shot.RenderCamera("Top")).Message, StringComparison.Ordinal);
        Assert.Null(Shot.Empty("None").RenderCamera());
        Assert.Null(new RemoveNodes(["b"]).Apply(shot with { Camera = "b" }).Camera);
    }

    [Fact]
    public void The_view_of_a_shot_gives_every_channel_one_place_and_every_key_its_frame()
    {
        var shot = EveryKind().Keyed("m/transform.translate.x", (2, 1), (7, 2)).Keyed("look/look.roughness", (4, 1)).Keyed("world/exposure", (1, 0));
        shot = shot with { Nodes = shot.Nodes.Add(new MeshNode { Id = "m2", Name = "M2", Shape = new BoxShape(2, 3, 4) }) };
        var compiled = new CompiledShot(shot);
        var view = SceneView.Of(compiled);
        // As the page gets it from the server.
        var data = JsonSerializer.SerializeToElement(view, JsonSerializerOptions.Web).GetProperty("nodes").EnumerateArray().Select(n => n.GetProperty("data")).ToList();
        Assert.Equal(shot.Nodes.Select(n => n.Id), view.Nodes.Select(n => n.Id));
        Assert.Equal(["group", "mesh", "camera", "sun", "lamp", "mesh", "mesh"], data.Select(n => n.GetProperty("kind").GetString()));
        Assert.Equal("c", view.Head.Camera);
        foreach (var owner in view.Owners)
        {
            foreach (var (spec, i) in view.Specs[owner.Specs].Select((s, i) => (s, i)))
            {
                Assert.Equal(compiled.IndexOfChannel(new(owner.Id, spec.Path)), owner.First + i);
            }
        }
        Assert.Equal(compiled.ChannelCount, view.Owners.Sum(o => view.Specs[o.Specs].Length));
        Assert.Equal(["look/look.roughness", "m/transform.translate.x", "world/exposure"], view.Keys.Keys.Order());
        Assert.Equal([2, 7], view.Keys["m/transform.translate.x"]);
        // Owners of one kind share a list, so that a large shot stays small on the way.
        Assert.True(view.Specs.Length < view.Owners.Length);
        Assert.Equal(2, data[5].GetProperty("deformers").GetArrayLength());
        Assert.False(data[1].TryGetProperty("channels", out _));
    }

    [Fact]
    public void The_buffers_of_a_frame_hold_what_the_frame_is()
    {
        var state = new FrameState(new CompiledShot(Shots.Crane().Keyed("base/visible", (0, 1), (5, 0)).Keyed("base/transform.translate.z", (0, 3))));
        var buffers = new FrameBuffers();
        state.Evaluate(0);
        buffers.Fill(state);
        var matrices = buffers.Matrices;
        var i = state.Compiled.IndexOfNode("hook");
        Span<double> world = stackalloc double[16];
        state.World[i].CopyTo(world);
        for (var k = 0; k < 16; k++)
        {
            Assert.Equal((float)world[k], matrices[16 * i + k]);
        }
        Assert.All(buffers.Seen, seen => Assert.Equal(1, seen));
        Assert.Equal(0, buffers.MeshVersions[state.Compiled.IndexOfNode("base")]);
        state.Evaluate(5);
        buffers.Fill(state);
        Assert.Same(matrices, buffers.Matrices);
        Assert.All(buffers.Seen, seen => Assert.Equal(0, seen));
    }

    [Fact]
    public void A_file_shows_only_what_is_not_as_usual()
    {
        var shot = Shots.Crane().Keyed("base/transform.translate.y", (0, 1));
        var written = JsonElement.Parse(ShotJson.Write(shot));
        var arm = written.GetProperty("nodes").EnumerateArray().Single(n => n.GetProperty("id").GetString() == "arm");
        Assert.Equal(["kind", "id", "name", "parent", "channels"], arm.EnumerateObject().Select(p => p.Name));
        var key = written.GetProperty("nodes").EnumerateArray().Single(n => n.GetProperty("id").GetString() == "base")
            .GetProperty("channels").GetProperty("transform.translate.y").GetProperty("curve").GetProperty("keys")[0];
        Assert.Equal(["frame", "value"], key.EnumerateObject().Select(p => p.Name));
        Assert.Equal(ShotJson.Write(shot), System.Text.Encoding.UTF8.GetString(ShotJson.WriteBytes(shot)));
    }

    [Fact]
    public void A_file_that_a_person_has_written_may_have_comments_and_any_order()
    {
        var shot = ShotJson.ReadShot("""
            {
              // The kind comes last, and there is a comma too many.
              "name": "By hand", "version": 1, "rate": { "numerator": 25 }, "range": { "first": 0, "last": 9 }, "size": { "width": 64, "height": 36 },
              "nodes": [{ "name": "Crate", "id": "crate", "shape": { "width": 2, "kind": "box" }, "kind": "mesh", }],
            }
            """);
        Assert.Equal(2, ((BoxShape)((MeshNode)shot.Node("crate")).Shape).Width);
        Assert.Equal(25, shot.Rate.FramesPerSecond);
    }

    [Fact]
    public void A_frame_and_its_time_go_back_and_forth() => Laws.ForSeeds((dice, _) =>
    {
        var frame = dice.Next(int.MinValue, int.MaxValue);
        foreach (var rate in new FrameRate[] { new(24), new(25), new(30000, 1001), new(24000, 1001), new(1) })
        {
            Assert.Equal(frame, rate.Frame(rate.Seconds(frame)), Math.Max(1e-9, Math.Abs(frame) * 1e-14));
        }
    });

    [Fact]
    public void Frames_that_are_written_read_back_as_they_were() => Laws.ForSeeds((dice, _) =>
    {
        var first = (short)dice.Next(-32768, 32768);
        var length = (byte)dice.Next(256);
        var step = (byte)dice.Next(256);
        var steps = new FrameSteps(new(first, first + length), step + 1);
        var back = FrameSteps.Parse(steps.ToString());
        Assert.Equal(steps.Frames(), back.Frames());
        Assert.Equal(steps.Count, steps.Frames().Count());
        Assert.Equal(first, steps.Frames().First());
        Assert.All(steps.Frames(), f => Assert.True(steps.Range.Contains(f)));
    });

    [Fact]
    public void A_timecode_counts_up_by_one_and_through_every_carry()
    {
        static long Read(string text, long perSecond)
        {
            var n = text.TrimStart('-').Split(':').Select(p => long.Parse(p, CultureInfo.InvariantCulture)).ToArray();
            return ((n[0] * 60 + n[1]) * 60 + n[2]) * perSecond + n[3];
        }
        foreach (var frame in new[] { 0, 23, 24, 1439, 1440, 86_399, 86_400, 2_073_600, int.MaxValue })
        {
            Assert.Equal(frame, Read(Timecode.Format(frame, FrameRate.Default), 24));
        }
        Assert.Equal("-00:00:01:00", Timecode.Format(-24, FrameRate.Default));
        Assert.Equal("00:00:01:00", Timecode.Format(30, new(30000, 1001)));
    }

    [Theory]
    [InlineData(0, 1)]
    [InlineData(24, 0)]
    [InlineData(-24, 1)]
    [InlineData(1, 2)]
    [InlineData(1001, 1)]
    [InlineData(int.MaxValue, 1)]
    public void A_rate_that_nobody_can_play_is_refused(int numerator, int denominator) =>
        Assert.Throws<Refusal>(() => new SetShot(Rate: new(numerator, denominator)).Apply(Shots.Crane()));

    [Theory]
    [InlineData("Buoy", "Buoy 4")]
    [InlineData("Buoy 2", "Buoy 4")]
    [InlineData("Bollard", "Bollard 2")]
    [InlineData("7", "7 2")]
    public void A_free_name_has_the_first_number_that_is_free(string wanted, string expected)
    {
        HashSet<string> taken = [wanted, "Buoy", "Buoy 2", "Buoy 3", "Buoy 5"];
        Assert.Equal(expected, Names.Free(wanted, taken.Contains));
        Assert.Equal("Pier", Names.Free("Pier", taken.Contains));
    }

    [Fact]
    public void Of_meshes_and_bytes_that_are_held_only_those_that_are_needed_stay()
    {
        var assets = new ShotAssets();
        var mesh = new BoxShape().Build();
        assets.Put("kept", mesh);
        assets.Put("gone", mesh);
        assets.Put("picture", [1]);
        assets.Retain(new HashSet<string> { "kept" });
        Assert.Same(mesh, assets.Find("kept"));
        Assert.Null(assets.Find("gone"));
        Assert.Null(assets.Bytes("picture"));
        assets.Put("gone", mesh);
        Assert.Same(mesh, assets.Find("gone"));
    }

    [Fact]
    public void A_large_shot_that_begins_to_play_makes_its_curves_ready_little_by_little()
    {
        var curve = Enumerable.Range(0, 500).Select(f => (f, (double)(f * 7 % 13))).ToArray();
        Channel Moving(int i) => new(0, new Curve([.. curve.Select(k => new Key(k.f, k.Item2 + i))]));
        var nodes = Enumerable.Range(0, 240).Select(i => (Node)new GroupNode { Id = $"g{i}", Name = "G", Channels = ImmutableSortedDictionary<string, Channel>.Empty.Add("transform.translate.y", Moving(i)) });
        var state = new FrameState(new CompiledShot(Shot.Empty("Large") with { Nodes = [.. nodes] }));
        var made = new List<long>();
        for (var frame = 0; frame < 80; frame++)
        {
            var before = GC.GetAllocatedBytesForCurrentThread();
            state.Evaluate(frame + 0.5);
            made.Add(GC.GetAllocatedBytesForCurrentThread() - before);
        }
        // The first frame makes room for the shot itself; the last ones make nothing.
        Assert.True(made.Skip(1).Max() < made.Skip(1).Sum() / 8, string.Join(" ", made));
        Assert.Equal(0, made[^1]);
    }
}
