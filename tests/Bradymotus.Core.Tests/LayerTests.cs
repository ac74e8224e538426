using System.Collections.Immutable;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Time;
using static Bradymotus.Core.Tests.Shots;

namespace Bradymotus.Core.Tests;

public class LayerTests
{
    private const string Y = "transform.translate.y";

    private static Shot Buoy(params Layer[] layers) => Shot.Empty("Buoy") with
    {
        Range = new FrameRange(0, 20),
        Nodes = [new GroupNode { Id = "buoy", Name = "Buoy" }, new MeshNode { Id = "lamp", Name = "Lamp", Parent = "buoy", Shape = new SphereShape(0.2, 8, 6), Material = "paint" }],
        Materials = [new("paint", "Paint")],
        Layers = [.. layers],
    };

    private static Layer Breath(LayerMode mode = LayerMode.Add, double weight = 1) =>
        new("breath", "Breath", mode, Channels: Channels((Layer.Weight, weight)));

    private static double At(Shot shot, string address, double frame)
    {
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(frame);
        var value = state.Value(Shots.At(address));
        Assert.Equal(value, CompiledShot.ValueOf(shot, Shots.At(address), frame));
        return value;
    }

    private static Affine World(Shot shot, string id, double frame)
    {
        var compiled = new CompiledShot(shot);
        var state = new FrameState(compiled);
        state.Evaluate(frame);
        return state.World[compiled.IndexOfNode(id)];
    }

    private static void Same(Affine a, Affine b, double within = 1e-9)
    {
        Span<double> x = stackalloc double[16], y = stackalloc double[16];
        a.CopyTo(x);
        b.CopyTo(y);
        for (var i = 0; i < 16; i++)
        {
            Assert.Equal(x[i], y[i], within);
        }
    }

    [Fact]
    public void A_layer_that_adds_puts_its_numbers_times_its_weight_on_top()
    {
        var shot = Buoy(Breath(weight: 0.5)).Keyed("buoy/" + Y, (0, 1), (10, 3)).Keyed($"buoy/{Y}@breath", (0, 0), (10, 4));
        Assert.Equal(1, At(shot, "buoy/" + Y, 0));
        Assert.Equal(5, At(shot, "buoy/" + Y, 10));
        Assert.Equal(4, shot.Channel(Shots.At($"buoy/{Y}@breath")).Evaluate(10));
    }

    [Fact]
    public void A_layer_that_overrides_takes_the_place_as_far_as_its_weight_goes_and_only_where_it_has_channels()
    {
        var shot = Buoy(Breath(LayerMode.Override, 0.25)).Keyed("buoy/" + Y, (0, 1), (10, 3)).Keyed("buoy/transform.translate.x", (0, 7)).Keyed($"buoy/{Y}@breath", (0, 9));
        Assert.Equal(1 + 0.25 * 8, At(shot, "buoy/" + Y, 0));
        Assert.Equal(3 + 0.25 * 6, At(shot, "buoy/" + Y, 10));
        Assert.Equal(7, At(shot, "buoy/transform.translate.x", 0));
    }

    [Fact]
    public void The_weight_is_a_channel_that_can_be_keyed_and_counts_from_0_to_1()
    {
        var shot = Buoy(Breath()).Keyed($"buoy/{Y}@breath", (0, 2)).Keyed("breath/weight", (0, -3), (10, 4));
        Assert.Equal(0, At(shot, "buoy/" + Y, 0));
        Assert.Equal(2, At(shot, "buoy/" + Y, 10));
        Assert.Equal("Weight", shot.Spec(Shots.At("breath/weight")).Label);
        var half = shot.Channel(Shots.At("breath/weight")).Evaluate(5);
        Assert.Equal(2 * half, At(shot, "buoy/" + Y, 5), 1e-12);
    }

    [Fact]
    public void Muted_layers_have_no_say_nor_have_others_beside_one_that_is_solo()
    {
        var shot = Buoy(Breath(), new("look", "Look")).Keyed($"buoy/{Y}@breath", (0, 2)).Keyed($"buoy/{Y}@look", (0, 30));
        Assert.Equal(32, At(shot, "buoy/" + Y, 0));
        Assert.Equal(30, At(new SetLayer(new("breath", "Breath", Muted: true)).Apply(shot), "buoy/" + Y, 0));
        var solo = new SetLayer(new("breath", "Breath", Solo: true)).Apply(shot);
        Assert.Equal(2, At(solo, "buoy/" + Y, 0));
        Assert.Equal("Solo the layer Breath", new SetLayer(new("breath", "Breath", Solo: true)).Describe(shot));
    }

    [Fact]
    public void Layers_count_from_the_lowest_to_the_highest()
    {
        var shot = Buoy(Breath(), new("cover", "Cover", LayerMode.Override)).Keyed($"buoy/{Y}@breath", (0, 2)).Keyed($"buoy/{Y}@cover", (0, 30));
        Assert.Equal(30, At(shot, "buoy/" + Y, 0));
        Assert.Equal(32, At(new MoveLayer("breath", 1).Apply(shot), "buoy/" + Y, 0));
    }

    [Fact]
    public void Materials_and_the_sky_have_layers_too_and_what_is_as_another_colour_follows_it_there()
    {
        var shot = Buoy(Breath()).Keyed("paint/look.color.r@breath", (0, 0.25)).Keyed("world/exposure@breath", (0, 2)).With(Shots.At("paint/look.color.r"), new Channel(0.5));
        Assert.Equal(0.75, At(shot, "paint/look.color.r", 4));
        Assert.Equal(0.75, At(shot, "paint/look.emissionColor.r", 4));
        Assert.Equal(2, At(shot, "world/exposure", 4));
    }

    [Theory]
    [InlineData(RotationOrder.Xyz)]
    [InlineData(RotationOrder.Zxy)]
    [InlineData(RotationOrder.Quaternion)]
    public void A_rotation_in_a_layer_that_adds_turns_what_is_below_in_its_own_axes(RotationOrder order)
    {
        var shot = Buoy(Breath());
        shot = shot.With(shot.Node("buoy") with { RotationOrder = order });
        var paths = RotationOrders.Paths(order);
        double[] below = order == RotationOrder.Quaternion ? [0.2, -0.3, 0.1, 0.9] : [30, -200, 75], own = order == RotationOrder.Quaternion ? [0.1, 0.5, -0.4, 0.3] : [-50, 10, 400];
        for (var i = 0; i < paths.Length; i++)
        {
            shot = shot.With(new ChannelAddress("buoy", paths[i]), new Channel(below[i])).Keyed($"buoy/{paths[i]}@breath", (3, own[i]));
        }
        Same(RotationOrders.ToAffine(order, below) * RotationOrders.ToAffine(order, own), World(shot, "buoy", 3));
    }

    [Fact]
    public void Turns_about_one_axis_add_up_exactly_beyond_a_turn_and_at_any_weight()
    {
        var shot = Buoy(Breath(weight: 0.5)).Keyed("buoy/transform.rotate.y", (0, 0), (10, 720)).Keyed("buoy/transform.rotate.y@breath", (0, 90));
        Assert.Equal(45, At(shot, "buoy/transform.rotate.y", 0));
        Assert.Equal(765, At(shot, "buoy/transform.rotate.y", 10));
    }

    [Fact]
    public void A_quaternion_in_a_layer_goes_along_the_way_of_its_turn_as_far_as_its_weight()
    {
        var shot = Buoy(Breath(weight: 0.5));
        shot = shot.With(shot.Node("buoy") with { RotationOrder = RotationOrder.Quaternion });
        var turn = new[] { 0, Math.Sqrt(0.5), 0, Math.Sqrt(0.5) };
        var paths = RotationOrders.Paths(RotationOrder.Quaternion);
        for (var i = 0; i < 4; i++)
        {
            shot = shot.Keyed($"buoy/{paths[i]}@breath", (0, turn[i]));
        }
        Same(Affine.Rotation(new(0, 45, 0), RotationOrder.Xyz), World(shot, "buoy", 0));
        Same(Affine.Rotation(new(0, 45, 0), RotationOrder.Xyz), World(new SetLayer(new("breath", "Breath", LayerMode.Override)).Apply(shot), "buoy", 0));
    }

    [Fact]
    public void A_pose_goes_into_the_layer_that_was_chosen_and_is_seen_as_it_was_made()
    {
        var shot = Buoy(Breath(weight: 0.5), new("look", "Look")).Keyed("buoy/" + Y, (0, 1), (10, 3)).Keyed($"buoy/{Y}@look", (0, 5));
        var (edit, waiting) = Posing.Set(shot, [new(Shots.At("buoy/" + Y), 10)], 10, autoKey: true, "breath");
        var posed = edit!.Apply(shot);
        Assert.Empty(waiting);
        Assert.Equal(10, At(posed, "buoy/" + Y, 10));
        Assert.Equal(4, posed.Channel(Shots.At($"buoy/{Y}@breath")).Curve!.Keys[0].Value);
        Assert.Same(shot.Channel(Shots.At("buoy/" + Y)), posed.Channel(Shots.At("buoy/" + Y)));
        // Below all layers the others are taken off.
        posed = Posing.Set(shot, [new(Shots.At("buoy/" + Y), 10)], 10, autoKey: true).Edit!.Apply(shot);
        Assert.Equal(5, posed.Channel(Shots.At("buoy/" + Y)).Evaluate(10));
    }

    [Fact]
    public void A_value_that_is_not_keyed_yet_waits_by_the_channel_that_was_changed()
    {
        var shot = Buoy(Breath()).Keyed($"buoy/{Y}@breath", (0, 0), (10, 3));
        var (edit, waiting) = Posing.Set(shot, [new(Shots.At("buoy/" + Y), 7)], 4, autoKey: false, "breath");
        Assert.Null(edit);
        Assert.Equal([new ChannelValue(Shots.At("buoy/" + Y), 7)], waiting);
    }

    [Fact]
    public void Whatever_is_posed_in_whatever_layer_is_seen_as_it_was_asked_for() => Laws.ForSeeds((dice, _) =>
    {
        var order = (RotationOrder)dice.Next(7);
        // With less weight a quaternion cannot turn everywhere.
        double Weight(int most) => order == RotationOrder.Quaternion ? 1 : dice.Next(1, most) / 4.0;
        var shot = Buoy(
            new("a", "A", (LayerMode)dice.Next(2), Channels: Channels((Layer.Weight, Weight(5)))),
            new("b", "B", order == RotationOrder.Quaternion ? LayerMode.Add : (LayerMode)dice.Next(2), Channels: Channels((Layer.Weight, Weight(4)))),
            new("c", "C", LayerMode.Add, Muted: dice.Next(2) == 0, Channels: Channels((Layer.Weight, dice.Next(4) / 4.0))));
        shot = shot.With(shot.Node("buoy") with { RotationOrder = order });
        var list = shot.ChannelsOf("buoy");
        string? layer = dice.Next(3) switch { 0 => null, 1 => "a", _ => "b" };
        var paths = RotationOrders.Paths(order);
        foreach (var path in paths.Concat("xyz".Select(c => $"transform.translate.{c}")))
        {
            foreach (var at in new[] { null, "a", "b", "c" })
            {
                // What takes the place above at full weight hides what is posed below, and rotations above that go by angles may not be reached: both are refused.
                if (dice.Next(2) == 0 && !(at == "a" && layer is null && shot.Layers[0].Mode == LayerMode.Override)
                    && !(at == "b" && layer != "b" && shot.Layers[1].Mode == LayerMode.Override && paths.Contains(path)))
                {
                    shot = shot.With(new ChannelAddress("buoy", path).In(at), new Channel(dice.Next(-20, 21) / 4.0));
                }
            }
        }
        var target = Affine.Rotation(new(dice.Next(-170, 170), dice.Next(-80, 80), dice.Next(-170, 170)), RotationOrder.Xyz) with { Origin = new(dice.Next(9), dice.Next(9), dice.Next(9)) };
        var wanted = Posing.ToLocal(shot, shot.Node("buoy"), Affine.Identity, target, 5).Where(v => !v.Address.Path.Contains("scale", StringComparison.Ordinal)).ToList();
        var values = wanted.ToDictionary(v => v.Address.Path, v => v.Value);
        var posed = Posing.Set(shot, wanted, 5, dice.Next(2) == 0, layer).Edit?.Apply(shot) ?? shot;
        var now = list.Select(s => At(posed, "buoy/" + s.Path, 5)).ToArray();
        foreach (var (path, value) in values.Where(v => !paths.Contains(v.Key)))
        {
            Assert.Equal(value, now[list.IndexOf(path)], 1e-6);
        }
        Same(target with { Origin = Double3.Zero }, RotationOrders.ToAffine(order, now.AsSpan(3, paths.Length)), 1e-6);
    }, 600);

    [Fact]
    public void A_quaternion_that_would_have_to_turn_too_far_is_refused()
    {
        var shot = Buoy(Breath(weight: 0.25));
        shot = shot.With(shot.Node("buoy") with { RotationOrder = RotationOrder.Quaternion });
        ChannelValue[] Turned(double degrees) => [.. Posing.ToLocal(shot, shot.Node("buoy"), Affine.Identity, Affine.Rotation(new(0, degrees, 0), RotationOrder.Xyz), 0)];
        Same(Affine.Rotation(new(0, 40, 0), RotationOrder.Xyz), World(Posing.Set(shot, Turned(40), 0, true, "breath").Edit!.Apply(shot), "buoy", 0));
        Assert.Contains("half a turn at most", Assert.Throws<Refusal>(() => Posing.Set(shot, Turned(50), 0, true, "breath")).Message);
    }

    [Fact]
    public void What_nobody_would_see_is_refused_and_says_what_to_do()
    {
        var shot = Buoy(Breath(weight: 0), new("cover", "Cover", LayerMode.Override)).Keyed($"buoy/{Y}@cover", (0, 5));
        ChannelValue[] value = [new(Shots.At("buoy/" + Y), 7)];
        Assert.Contains("no weight on frame 3", Assert.Throws<Refusal>(() => Posing.Set(shot, value, 3, true, "breath")).Message);
        Assert.Contains("a layer above takes its place on frame 3", Assert.Throws<Refusal>(() => Posing.Set(shot, value, 3, true)).Message);
        var muted = new SetLayer(new("cover", "Cover", LayerMode.Override, Muted: true)).Apply(shot);
        Assert.Contains("“Cover” is not active", Assert.Throws<Refusal>(() => Posing.Set(muted, value, 3, true, "cover")).Message);
    }

    [Theory]
    [InlineData("buoy/transform.translate.y@breath@look", "a layer of a layer")]
    [InlineData("look/weight@breath", "a layer of a layer")]
    [InlineData("buoy/transform.translate.y@gone", "no layer “gone”")]
    [InlineData("buoy/nothing@breath", "no channel “nothing@breath”")]
    public void A_channel_in_no_layer_or_in_two_is_refused(string address, string sentence)
    {
        var shot = Buoy(Breath(), new("look", "Look"));
        Assert.Contains(sentence, Assert.Throws<Refusal>(() => new SetKeys(0, [new(Shots.At(address), 1)]).Apply(shot)).Message);
        var owner = address.Split('/')[0];
        var json = ShotJson.Write(shot).Replace($"\"id\":\"{owner}\"", $"\"id\":\"{owner}\",\"channels\":{{\"{address.Split('/')[1]}\":{{\"value\":1}}}}", StringComparison.Ordinal);
        Assert.Contains(sentence, Assert.Throws<Refusal>(() => ShotJson.ReadShot(json)).Message);
    }

    [Fact]
    public void A_locked_layer_and_its_keys_stay_as_they_are()
    {
        var shot = Buoy(Breath() with { Locked = true }).Keyed("buoy/" + Y, (0, 1));
        Assert.Contains("“Breath” is locked", Assert.Throws<Refusal>(() => new SetKeys(0, [new(Shots.At($"buoy/{Y}@breath"), 1)]).Apply(shot)).Message);
        Assert.Contains("“Breath” is locked", Assert.Throws<Refusal>(() => new RemoveLayer("breath").Apply(shot)).Message);
        Assert.Contains("“Breath” is locked", Assert.Throws<Refusal>(() => new MergeLayer("breath").Apply(shot)).Message);
        Assert.Contains("“Breath” is locked", Assert.Throws<Refusal>(() => new BakeLayers().Apply(shot)).Message);
    }

    [Fact]
    public void Ids_are_taken_once_and_a_removed_layer_takes_its_keys_along()
    {
        var shot = Buoy(Breath()).Keyed($"buoy/{Y}@breath", (0, 2));
        foreach (var id in new[] { "breath", "buoy", "paint", "world", "a/b", "a@b", "" })
        {
            Assert.Throws<Refusal>(() => new AddLayer(new(id, "Other")).Apply(shot));
        }
        Assert.Throws<Refusal>(() => new AddLayer(new("x", " ")).Apply(shot));
        Assert.Throws<Refusal>(() => new AddLayer(new("x", "X"), 2).Apply(shot));
        Assert.Throws<Refusal>(() => new AddNodes([new GroupNode { Id = "breath", Name = "G" }]).Apply(shot));
        var removed = new RemoveLayer("breath").Apply(shot);
        Assert.Empty(removed.Layers);
        Assert.DoesNotContain(removed.AllSetChannels(), c => c.Address.Layer is not null);
    }

    [Fact]
    public void Files_have_layers_and_are_read_as_they_were()
    {
        var shot = Buoy(Breath(weight: 0.5), new("look", "Look", LayerMode.Override, Muted: true)).Keyed($"buoy/{Y}@breath", (0, 2));
        var json = ShotJson.Write(shot);
        Assert.Contains("\"layers\":[{\"id\":\"breath\",\"name\":\"Breath\",\"channels\":{\"weight\":{\"value\":0.5}}},{\"id\":\"look\",\"name\":\"Look\",\"mode\":\"override\",\"muted\":true}]", json, StringComparison.Ordinal);
        Assert.Equal(json, ShotJson.Write(ShotJson.ReadShot(json)));
    }

    [Fact]
    public void Merging_what_does_not_change_moves_the_keys_and_leaves_them_as_they_are()
    {
        var shot = Buoy(Breath(weight: 0.5)).Keyed("buoy/" + Y, (0, 1), (10, 3)).With(Shots.At($"buoy/{Y}@breath"), new Channel(4))
            .With(Shots.At("buoy/transform.translate.x"), new Channel(1)).Keyed("buoy/transform.translate.x@breath", (0, 2), (7, 6));
        var merged = new MergeLayer("breath").Apply(shot);
        Assert.Equal([(0.0, 3.0), (10, 5)], merged.Channel(Shots.At("buoy/" + Y)).Curve!.Keys.Select(k => (k.Frame, k.Value)));
        Assert.Equal([(0.0, 2.0), (7, 4)], merged.Channel(Shots.At("buoy/transform.translate.x")).Curve!.Keys.Select(k => (k.Frame, k.Value)));
        for (var f = -3.0; f < 15; f += 0.25)
        {
            Same(World(shot, "buoy", f), World(merged, "buoy", f));
        }
    }

    [Fact]
    public void Merging_and_baking_look_the_same_on_every_frame() => Laws.ForSeeds((dice, seed) => MergesAndBakes(dice, seed % 3 == 0));

    // A quaternion of which a layer has one number; a colour that follows another; a weight that is freed; the same rotation with other angles.
    [Theory]
    [InlineData(2003028094)]
    [InlineData(174418590)]
    [InlineData(1043557768)]
    [InlineData(1414704794)]
    public void Merging_and_baking_look_the_same_where_they_once_did_not(int seed) => MergesAndBakes(new(seed), false);

    /// <summary>Cycles that go on for ever do so after merging and baking, far beyond the range, whatever repeats at other lengths.</summary>
    [Fact]
    public void What_repeats_for_ever_goes_on_when_layers_are_merged() => Laws.ForSeeds((dice, _) =>
    {
        var kinds = new[] { ExtrapolationKind.Loop, ExtrapolationKind.PingPong };
        var isBefore = dice.Next(2) == 0;
        Curve Cycle(int first, int length)
        {
            var kind = kinds[dice.Next(2)];
            return new Curve([new(first, dice.Next(-9, 9)), new(first + length / 2, dice.Next(-9, 9)), new(first + length, dice.Next(-9, 9))])
            {
                Before = new(isBefore ? kind : ExtrapolationKind.Hold),
                After = new(kind),
            };
        }
        var first = dice.Next(-5, 20);
        var swing = Shots.At("arm/transform.rotate.z");
        var shot = Shots.Crane() with { Layers = [new Layer("sway", "Sway", dice.Next(2) == 0 ? LayerMode.Add : LayerMode.Override)] };
        shot = shot.With(swing, new Channel(0, Cycle(first, 2 * dice.Next(3, 12)))).With(swing.In("sway"), new Channel(0, Cycle(first, 2 * dice.Next(3, 12))));
        shot = shot.With(new("sway", Layer.Weight), new Channel(dice.Next(1, 5) / 4.0));
        foreach (var merged in new[] { new MergeLayer("sway").Apply(shot), new BakeLayers().Apply(shot) })
        {
            for (var f = isBefore ? -400 : first; f < 900; f += 7)
            {
                // At the seam itself a cycle may jump.
                var (a, b) = (CompiledShot.ValueOf(shot, swing, f), CompiledShot.ValueOf(merged, swing, f));
                var jumps = Math.Abs(CompiledShot.ValueOf(shot, swing, f - 1e-6) - CompiledShot.ValueOf(shot, swing, f + 1e-6)) > 1e-3;
                Assert.True(jumps || Math.Abs(a - b) < 1e-6, $"Frame {f}: {a} became {b}.");
            }
        }
    }, 300);

    [Fact]
    public void A_layer_that_is_not_seen_is_not_merged_in()
    {
        var lift = Shots.At("base/transform.translate.y");
        var shot = Shots.Crane() with { Layers = [new Layer("a", "Sway"), new Layer("b", "Shake", Muted: true)] };
        shot = shot.With(lift.In("b"), new Channel(5));
        Assert.Contains("“Shake” is muted", Assert.Throws<Refusal>(() => new MergeLayer("b").Apply(shot)).Message, StringComparison.Ordinal);
        var other = shot with { Layers = [new Layer("a", "Sway", Muted: true), new Layer("b", "Shake")] };
        Assert.Contains("“Sway” is muted", Assert.Throws<Refusal>(() => new MergeLayer("b").Apply(other)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_weight_that_is_keyed_to_0_can_be_raised_and_so_can_others_while_it_is_0()
    {
        var weight = new ChannelAddress("a", Layer.Weight);
        var shot = Shots.Crane() with { Layers = [new Layer("a", "Sway"), new Layer("b", "Shake")] };
        shot = shot.With(weight, new Channel(1, new Curve([new(0, 0), new(20, 1)])));
        var raised = Posing.Set(shot, [new(weight, 0.5)], 0, autoKey: true, "a").Edit!.Apply(shot);
        Assert.Equal(0.5, raised.Channel(weight).Evaluate(0));
        var other = Posing.Set(shot, [new(new("b", Layer.Weight), 0.25)], 0, autoKey: true, "a").Edit!.Apply(shot);
        Assert.Equal(0.25, other.Channel(new("b", Layer.Weight)).Evaluate(0));
        Assert.Throws<Refusal>(() => Posing.Set(shot, [new(Shots.At("base/transform.translate.y"), 3)], 0, autoKey: true, "a"));
    }

    private static void MergesAndBakes(Random dice, bool areSomeMuted)
    {
        var some = new SomeShots(dice);
        var shot = some.Shot();
        for (var i = 0; i < 3 && shot.Layers.Length < 3; i++)
        {
            shot = shot with { Layers = shot.Layers.Add(some.Layer($"x{i}") with { Locked = false }) };
        }
        shot = shot with { Layers = [.. shot.Layers.Select(l => l with { Locked = false })] };
        for (var i = 0; i < 8; i++)
        {
            shot = shot.With(some.Channel(shot), new Channel(dice.Next(5), dice.Next(3) == 0 ? null : SomeShots.Curve(dice)));
        }
        if (areSomeMuted)
        {
            shot = new MuteChannels([.. shot.AllSetChannels().Select(c => c.Address).Where(_ => dice.Next(3) == 0)]).Apply(shot);
        }
        var baked = new BakeLayers().Apply(shot);
        Assert.Empty(baked.Layers);
        Compare(shot, baked);
        // One that is not seen is refused.
        shot = shot with { Layers = [.. shot.Layers.Select(l => l with { Muted = false, Solo = false })] };
        Compare(shot, new MergeLayer(shot.Layers[dice.Next(shot.Layers.Length)].Id).Apply(shot));
    }

    private static void Compare(Shot a, Shot b)
    {
        var (one, two) = (new FrameState(new CompiledShot(a)), new FrameState(new CompiledShot(b)));
        for (var f = 0; f <= 40; f++)
        {
            one.Evaluate(f);
            two.Evaluate(f);
            for (var n = 0; n < a.Nodes.Length; n++)
            {
                var i = one.Compiled.IndexOfNode(a.Nodes[n].Id);
                var size = Math.Max(1, one.World[i].Largest);
                Same(one.World[i], two.World[i], 1e-6 * size);
                // Half way between seen and hidden the last bit decides.
                if (new[] { "visible", "visible.stage", "visible.renders" }.All(v => Math.Abs(one.Value(new(a.Nodes[n].Id, v)) - 0.5) > 1e-6))
                {
                    Assert.Equal(one.Visible[i], two.Visible[i]);
                }
            }
            foreach (var path in a.ChannelsOf("m0").Select(c => c.Path))
            {
                Assert.Equal(one.Value(new("m0", path)), two.Value(new("m0", path)), 1e-6);
            }
        }
    }

    [Fact]
    public void Merging_into_a_layer_whose_weight_changes_puts_the_weight_into_the_keys()
    {
        var shot = Buoy(Breath(), new("look", "Look")).Keyed("breath/weight", (0, 0), (10, 1)).Keyed($"buoy/{Y}@breath", (0, 4)).Keyed($"buoy/{Y}@look", (0, 1), (10, 2));
        var merged = new MergeLayer("look").Apply(shot);
        var layer = Assert.Single(merged.Layers);
        Assert.Equal(("breath", null), (layer.Id, layer.Channels));
        for (var f = 0; f <= 10; f++)
        {
            Assert.Equal(At(shot, "buoy/" + Y, f), At(merged, "buoy/" + Y, f), 1e-9);
        }
    }

    [Fact]
    public void Another_rotation_order_is_taken_by_every_layer()
    {
        var shot = Buoy(Breath()).With(Shots.At("buoy/transform.rotate.x"), new Channel(20)).With(Shots.At("buoy/transform.rotate.z"), new Channel(80))
            .Keyed("buoy/transform.rotate.x@breath", (0, 10), (5, 50)).Keyed("buoy/transform.rotate.y@breath", (0, -30), (5, 70));
        foreach (var order in new[] { RotationOrder.Zyx, RotationOrder.Quaternion })
        {
            var other = new SetRotationOrder(["buoy"], order).Apply(shot);
            Same(World(shot, "buoy", 0), World(other, "buoy", 0));
            Same(World(shot, "buoy", 5), World(other, "buoy", 5));
        }
    }

    [Fact]
    public void A_pivot_moves_below_the_layers_and_the_object_stays()
    {
        var shot = Buoy(Breath(weight: 0.5), new("look", "Look", LayerMode.Override, Channels: Channels((Layer.Weight, 0.5))))
            .With(Shots.At("buoy/transform.rotate.z"), new Channel(30)).Keyed($"buoy/{Y}@breath", (0, 2)).Keyed($"buoy/{Y}@look", (0, 1), (5, 9)).With(Shots.At("buoy/transform.pivot.x@breath"), new Channel(1));
        var moved = new MovePivots([new("buoy", 2, 3, -1)], 0).Apply(shot);
        Same(World(shot, "buoy", 0), World(moved, "buoy", 0));
        Assert.Equal(2, At(moved, "buoy/transform.pivot.x", 0), 1e-12);
    }

    [Fact]
    public void What_follows_another_has_its_layers_too()
    {
        var shot = Buoy(Breath()).Keyed($"buoy/{Y}@breath", (0, 2));
        shot = shot with { Nodes = shot.Nodes.Add(new GroupNode { Id = "twin", Name = "Twin", Follows = "buoy" }) };
        Assert.Equal(2, At(shot, "twin/" + Y, 0));
    }

    [Fact]
    public void A_dragged_weight_changes_what_it_touches_and_the_rest_is_taken_over()
    {
        var shot = Buoy(Breath()).Keyed($"buoy/{Y}@breath", (0, 2));
        shot = shot with { Nodes = shot.Nodes.Add(new GroupNode { Id = "mole", Name = "Mole" }) };
        var compiled = new CompiledShot(shot);
        var state = new FrameState(compiled);
        state.Evaluate(0);
        var lighter = new SetValues([new(Shots.At("breath/weight"), 0.25)]).Apply(shot);
        var patched = new CompiledShot(lighter, compiled);
        state.Show(patched);
        state.Evaluate(0);
        Assert.Equal(0.5, state.Value(Shots.At("buoy/" + Y)));
        Assert.Equal(0.25, state.Value(Shots.At("breath/weight")));
        Assert.Equal(state.Pass, state.Changed[patched.IndexOfNode("buoy")]);
        Assert.Equal(state.Pass - 1, state.Changed[patched.IndexOfNode("mole")]);
    }

    [Fact]
    public void Checks_look_at_what_is_seen_and_at_the_keys_of_every_layer()
    {
        var shot = Buoy(Breath()).Keyed("buoy/" + Y, (0, 0), (20, 0)).Keyed($"buoy/{Y}@breath", (0, 1), (10, 1), (20, 1));
        var found = MotionChecks.Of(shot);
        Assert.Contains(found, f => f.Kind == FindingKind.IdleKeys && f.Channels.Contains($"buoy/{Y}@breath"));
    }
}
