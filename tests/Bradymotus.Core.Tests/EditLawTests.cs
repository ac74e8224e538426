using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Core.Tests;

/// <summary>What must hold for every edit, whatever it is and wherever it is made.</summary>
public class EditLawTests
{
    private static Shot? Try(Edit edit, Shot shot)
    {
        try
        {
            return edit.Apply(shot);
        }
        catch (Refusal refusal)
        {
            Assert.DoesNotContain('\n', refusal.Message);
            return null;
        }
    }

    [Fact]
    public void Whatever_an_edit_leaves_behind_can_be_saved_and_read_again() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shot = some.Shot();
        for (var i = 0; i < 12; i++)
        {
            var before = ShotJson.Write(shot);
            var edit = some.Edit(shot);
            var after = Try(edit, shot);
            Assert.Equal(before, ShotJson.Write(shot));
            if (after is not null)
            {
                var json = ShotJson.Write(after);
                Assert.Equal(json, ShotJson.Write(ShotJson.ReadShot(json)));
                shot = after;
            }
        }
    }, 400);

    [Fact]
    public void An_edit_that_was_written_and_read_does_the_same() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shot = some.Shot();
        var edit = some.Edit(shot);
        if (Try(edit, shot) is { } after)
        {
            var back = ShotJson.Read<JournalEntry>(ShotJson.Write<JournalEntry>(new EditEntry(edit) { Id = "x" }), "entry");
            Assert.Equal("x", back.Id);
            WireTests.Same(back);
            Assert.Equal(ShotJson.Write(after), ShotJson.Write(((EditEntry)back).Edit.Apply(shot)));
        }
    });

    /// <summary>The evaluator that is kept through a row of edits, undos and frames, against one that is made anew for each.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void What_is_kept_from_frame_to_frame_and_edit_to_edit_gives_the_same_bits_as_a_fresh_start(bool areFramesKept) => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var sound = new Sound("bell", "Bell", new string('0', 64), 2) { Channels = ImmutableSortedDictionary<string, Channel>.Empty.Add(Sound.Level, new(1, areFramesKept ? SomeShots.Curve(dice) : null)) };
        var shots = new List<Shot> { areFramesKept ? some.Shot(10) with { Sounds = [sound] } : some.Shot(10) };
        var compiled = new CompiledShot(shots[0]);
        // Room for a few frames or for all.
        var store = areFramesKept ? new FrameStore(dice.Next(4) == 0 ? 20_000 : 1 << 24) : null;
        var state = new FrameState(compiled) { Store = store };
        var buffers = new FrameBuffers();
        // What is kept is asked for again and again, and keys are changed more than anything else.
        Edit Change(Shot from) => areFramesKept && dice.Next(3) > 0 && from.AllSetChannels().Where(c => c.Channel.Curve is not null).ToList() is [_, ..] keyed && keyed[dice.Next(keyed.Count)] is var (address, channel)
            ? dice.Next(3) switch
            {
                0 => new TransformKeys([new(address, channel.Curve!.Keys[dice.Next(channel.Curve.Keys.Length)].Frame)], new(dice.Next(-4, 5), dice.Next(-9, 9))),
                1 => new SetKeys(dice.Next(-5, 50), [new(address, dice.Next(9))]),
                _ => new SetHandle(new(address, channel.Curve!.Keys[dice.Next(channel.Curve.Keys.Length)].Frame), (KeySide)dice.Next(2), new FreeHandle(dice.Next(-5, 6), dice.Next(9))),
            }
            : some.Edit(from);
        for (var i = 0; i < (areFramesKept ? 40 : 12); i++)
        {
            if (dice.Next(3) > (areFramesKept ? 1 : 0))
            {
                // Now on from the newest, now from an earlier one, as each step of a drag starts from the state before it.
                var from = dice.Next(3) == 0 ? shots[dice.Next(shots.Count)] : shots[^1];
                var shot = dice.Next(4) == 0 ? from : Try(Change(from), from) ?? from;
                shots.Add(shot);
                compiled = new CompiledShot(shot, compiled);
                state.Show(compiled);
            }
            var overridden = dice.Next(areFramesKept ? 9 : 3) == 0 && compiled.ChannelCount > 0 ? dice.Next(compiled.ChannelCount) : -1;
            if (overridden >= 0)
            {
                state.Override(overridden, 0.75);
            }
            var frame = dice.Next(2) == 0 && !double.IsNaN(state.Frame) ? state.Frame : areFramesKept ? dice.Next(-1, 12) * 4 : dice.Next(-5, 50);
            state.Evaluate(frame);
            buffers.Fill(state);

            var cold = new FrameState(new CompiledShot(shots[^1]));
            if (overridden >= 0)
            {
                cold.Override(overridden, 0.75);
            }
            cold.Evaluate(frame);
            Assert.Equal(cold.Values, state.Values);
            Assert.Equal(cold.World, state.World);
            Assert.Equal(cold.Visible, state.Visible);
            var coldBuffers = new FrameBuffers();
            coldBuffers.Fill(cold);
            Assert.Equal(coldBuffers.Matrices, buffers.Matrices);
            Assert.Equal(coldBuffers.Seen, buffers.Seen);
            for (var n = 0; n < compiled.NodeCount; n++)
            {
                if (cold.Visible[n])
                {
                    Assert.Equal(cold.Mesh(n)?.Positions, state.Mesh(n)?.Positions);
                }
                Assert.Equal(state.Mesh(n)?.Version ?? 0, buffers.MeshVersions[n]);
            }
            Assert.Equal(cold.Rendered, state.Rendered);
            Assert.Equal(cold.Copies.Select(c => (c.Owner, c.Node, c.World, c.Visible)), state.Copies.Select(c => (c.Owner, c.Node, c.World, c.Visible)));
            state.ClearOverrides();
        }
    }, 300);

    [Fact]
    public void The_frame_that_is_nearest_and_not_known_is_worked_out_next() => Laws.ForSeeds((dice, _) =>
    {
        var at = Shots.At("a/transform.translate.x");
        var shot = Shot.Empty("Paths") with { Nodes = [new MeshNode { Id = "a", Name = "A", Shape = new BoxShape(), Traced = [0] }] };
        shot = shot.Keyed("a/transform.translate.x", (0, 0), (50, 2), (100, 5));
        var paths = new VertexPaths();
        paths.Show(shot, 0, 99);
        var mesh = paths.Meshes[0];
        bool[] Known() => [.. Enumerable.Range(0, 100).Select(f => !double.IsNaN(mesh.Points[0][3 * f]))];
        for (var n = 0; n < 60; n++)
        {
            if (dice.Next(15) == 0)
            {
                // Some frames are unknown again: those that the change of one key reaches.
                shot = new SetKeys(dice.Next(1, 100), [new(at, dice.NextDouble())]).Apply(shot);
                paths.Show(shot, 0, 99);
                mesh = paths.Meshes[0];
            }
            var (before, near) = (Known(), dice.Next(-10, 110));
            Assert.Equal(before.Contains(false), paths.Step(near));
            var worked = Known().Zip(before).Index().Where(k => k.Item.First != k.Item.Second).Select(k => k.Index).ToList();
            var nearest = before.Index().Where(k => !k.Item).Min(k => Math.Abs(k.Index - near));
            Assert.Equal(nearest, Math.Abs(Assert.Single(worked) - near));
        }
    }, 20);

    [Fact]
    public void The_paths_of_vertices_go_where_a_fresh_evaluation_puts_them_after_any_edits() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shots = new List<Shot> { some.Shot(6) };
        var paths = new VertexPaths();
        for (var i = 0; i < 10; i++)
        {
            var from = dice.Next(3) == 0 ? shots[dice.Next(shots.Count)] : shots[^1];
            var meshes = from.Nodes.OfType<MeshNode>().ToList();
            Edit edit = meshes.Count > 0 && (i == 0 || dice.Next(4) == 0) ? new TraceVertices(meshes[dice.Next(meshes.Count)].Id, [dice.Next(40), 40 + dice.Next(3)]) : some.Edit(from);
            var shot = Try(edit, from) ?? from;
            shots.Add(shot);
            var (first, last) = dice.Next(4) == 0 ? (3, 9) : (-2, 14);
            paths.Show(shot, first, last);
            // Now and then the next edit comes before all is known.
            for (var n = dice.Next(3) == 0 ? dice.Next(10) : int.MaxValue; n > 0 && paths.Step(dice.Next(-4, 20)); n--)
            {
            }
            var cold = new FrameState(new CompiledShot(shot));
            foreach (var mesh in paths.Meshes)
            {
                for (var frame = first; frame <= last; frame++)
                {
                    cold.Evaluate(frame);
                    var at = cold.Compiled.IndexOfNode(mesh.Node);
                    for (var v = 0; v < mesh.Vertices.Length; v++)
                    {
                        var shape = cold.Mesh(at)!.Positions.AsSpan().Slice(Math.Min(3 * mesh.Vertices[v], cold.Mesh(at)!.Positions.Length));
                        var isThere = shape.Length > 0 && (cold.Visible[at] || cold.Rendered[at]);
                        var place = isThere ? cold.World[at].Point(new(shape[0], shape[1], shape[2])) : new(double.NaN, double.NaN, double.NaN);
                        var known = mesh.Points[v].AsSpan(3 * (frame - first), 3);
                        if (!double.IsNaN(known[0]) || !paths.Step(frame))
                        {
                            Assert.Equal([place.X, place.Y, place.Z], known.ToArray());
                        }
                    }
                }
            }
        }
    }, 300);

    [Fact]
    public void A_change_of_keys_lets_go_of_the_frames_that_it_reaches_and_of_no_others()
    {
        var shot = Shot.Empty("Kept") with { Nodes = [new GroupNode { Id = "g", Name = "G" }, new GroupNode { Id = "h", Name = "H" }] };
        shot = shot.Keyed("g/transform.translate.x", [.. Enumerable.Range(0, 11).Select(i => (10.0 * i, (double)(i % 3)))]).Keyed("h/transform.translate.y", (0, 1), (100, 2));
        var store = new FrameStore();
        var compiled = new CompiledShot(shot);
        var state = new FrameState(compiled) { Store = store };
        void Show(Shot next)
        {
            compiled = new CompiledShot(next, compiled);
            state.Show(compiled);
        }
        for (var f = 0; f <= 100; f++)
        {
            state.Evaluate(f);
        }
        state.Evaluate(3.5);
        Assert.Equal([0, 100], store.Runs(0, 100));
        Assert.Equal([20, 30], store.Runs(20, 30));
        var version = store.Version;
        // A name changes nothing that is seen, nor does a lock.
        Show(new SetShot("Other").Apply(shot));
        Show(new Rename("h", "Handrail").Apply(compiled.Shot));
        Show(new ReplaceNode(compiled.Shot.Node("h") with { Locked = true }).Apply(compiled.Shot));
        Assert.Equal((101, version), (store.Count, store.Version));
        // The key on 50 has a say from the second key before it to the second after it.
        Show(new TransformKeys([new(Shots.At("g/transform.translate.x"), 50)], new(Value: 3)).Apply(shot));
        Assert.Equal([0, 29, 71, 100], store.Runs(0, 100));
        Assert.NotEqual(version, store.Version);
        // What is set by hand and not keyed is not kept.
        state.Override(compiled.IndexOfChannel(Shots.At("g/transform.translate.x")), 9);
        state.Evaluate(50);
        state.ClearOverrides();
        Assert.Equal([0, 29, 71, 100], store.Runs(0, 100));
        state.Evaluate(50);
        Assert.Equal([0, 29, 50, 50, 71, 100], store.Runs(0, 100));
        // What repeats is another everywhere after its keys, and a value without keys on every frame.
        Show(new SetExtrapolation([Shots.At("h/transform.translate.y")], null, new(ExtrapolationKind.Loop)).Apply(compiled.Shot));
        Assert.Equal(0, store.Count);
        state.Evaluate(1);
        Show(new SetValues([new(Shots.At("g/transform.scale.x"), 2)]).Apply(compiled.Shot));
        Assert.Equal(0, store.Count);
    }

    [Fact]
    public void A_range_that_has_no_room_keeps_what_has_and_plays_on()
    {
        var shot = Shot.Empty("Full") with { Nodes = [new GroupNode { Id = "g", Name = "G" }] };
        shot = shot.Keyed("g/transform.translate.x", (0, 1), (100, 2));
        var one = new FrameStore();
        new FrameState(new CompiledShot(shot)) { Store = one }.Evaluate(0);
        var store = new FrameStore(10_000);
        var state = new FrameState(new CompiledShot(shot)) { Store = store };
        for (var round = 0; round < 3; round++)
        {
            for (var f = 0; f < 100; f++)
            {
                state.Evaluate(f);
            }
        }
        var kept = store.Runs(0, 100);
        Assert.InRange(store.Count, 4, 40);
        Assert.Equal(0, kept[0]);
        // Who works somewhere else for a while finds that kept instead.
        for (var i = 0; i < 2000; i++)
        {
            state.Evaluate(200 + i % 3);
        }
        Assert.Equal([200, 202], store.Runs(200, 300));
    }

    [Fact]
    public void Evaluating_a_frame_allocates_nothing()
    {
        var shot = ShotJson.ReadShot(File.ReadAllText(Repository.Demo));
        var state = new FrameState(new CompiledShot(shot));
        var buffers = new FrameBuffers();
        void Run()
        {
            for (var frame = 0; frame < 20; frame++)
            {
                state.Evaluate(frame);
                buffers.Fill(state);
            }
        }
        // Curves are compiled one a little later than the other.
        for (var i = 0; i < 4; i++)
        {
            Run();
        }
        var before = GC.GetAllocatedBytesForCurrentThread();
        Run();
        Assert.Equal(0, GC.GetAllocatedBytesForCurrentThread() - before);
    }

    /// <summary>Under parents that stand still, parenting changes nothing on any frame; under others, nothing on its own frame.</summary>
    [Fact]
    public void Parenting_keeps_the_place_in_the_world() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shot = some.Shot(10);
        var id = shot.Nodes[dice.Next(shot.Nodes.Length)].Id;
        var parent = dice.Next(4) == 0 ? null : shot.Nodes[dice.Next(shot.Nodes.Length)].Id;
        var frame = dice.Next(0, 40);
        if (Try(new Reparent([id], frame, parent), shot) is not { } after)
        {
            return;
        }
        Assert.Equal(parent, after.Node(id).Parent);
        Assert.Same(shot.Node(id).Channels, after.Node(id).Channels);
        var (before, now) = (new CompiledShot(shot), new CompiledShot(after));
        bool Moves(string? at)
        {
            for (var node = shot.FindNode(at); node is not null; node = shot.FindNode(node.Parent))
            {
                if (node.Channels!.Any(c => c.Value.Curve is not null))
                {
                    return true;
                }
            }
            return false;
        }
        var isStill = !Moves(shot.Node(id).Parent) && !Moves(parent);
        foreach (var f in isStill ? [-3, frame, 11.5, 70] : new double[] { frame })
        {
            var (a, b) = (before.WorldAt(id, f), now.WorldAt(id, f));
            var size = 1 + a.Largest + (parent is null ? 0 : now.WorldAt(parent, f).Largest);
            foreach (var p in new Double3[] { new(0, 0, 0), new(1, 0, 0), new(0, 1, 0), new(0, 0, 1) })
            {
                Assert.True((a.Point(p) - b.Point(p)).Length <= 1e-9 * size * size, $"{id} under {parent} on {f}: {a.Point(p)} and {b.Point(p)}");
            }
        }
        // And back again: nothing is left behind.
        if (shot.Node(id).Parent is { } old && Try(new Reparent([id], frame, old), after) is { } back && !Moves(old) && !Moves(parent))
        {
            var (a, b) = (before.WorldAt(id, 9), new CompiledShot(back).WorldAt(id, 9));
            Assert.True((a.Origin - b.Origin).Length < 1e-8 * (1 + a.Largest));
        }
    });

    [Fact]
    public void Two_named_alike_are_told_apart_below_one_parent_and_a_parent_of_no_size_takes_none()
    {
        var shot = Shot.Empty("Twins") with
        {
            Nodes =
            [
                new GroupNode { Id = "a", Name = "A" }, new GroupNode { Id = "b", Name = "B" }, new GroupNode { Id = "flat", Name = "Flat", Channels = Shots.Channels(("transform.scale.x", 1e-13), ("transform.scale.y", 1e-13), ("transform.scale.z", 1e-13)) },
                new GroupNode { Id = "c", Name = "Twin", Parent = "a" }, new GroupNode { Id = "d", Name = "Twin", Parent = "b" },
            ],
        };
        Assert.Equal(["Twin", "Twin 2"], new Reparent(["c", "d"], 0).Apply(shot).Children(null).Select(n => n.Name).Where(n => n.StartsWith("Twin", StringComparison.Ordinal)));
        Assert.Contains("offset", Assert.Throws<Refusal>(() => new Reparent(["a"], 0, "flat").Apply(shot)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Another_rotation_order_leaves_an_object_as_it_stands_on_every_key() => Laws.ForSeeds((dice, _) =>
    {
        var some = new SomeShots(dice);
        var shot = some.Shot(3, layers: false);
        var node = shot.Nodes[0];
        var frames = new List<double> { 5 };
        var isKeyed = dice.Next(3) > 0;
        foreach (var path in shot.ChannelsOf(node.Id).Select(s => s.Path).Where(IsTurn))
        {
            var address = new ChannelAddress(node.Id, path);
            var curve = isKeyed && dice.Next(2) == 0 ? SomeShots.Curve(dice) : null;
            shot = shot.With(address, new Channel(dice.Next(-400, 400), curve));
        }
        var curves = shot.Node(node.Id).Channels!.Where(c => IsTurn(c.Key)).Select(c => c.Value.Curve).OfType<Curve>().ToList();
        frames = curves.Count == 0 ? frames : [.. curves.SelectMany(c => c.Keys).Select(k => k.Frame)];
        static bool IsTurn(string path) => path.StartsWith("transform.rotate", StringComparison.Ordinal) || path.StartsWith("transform.quaternion", StringComparison.Ordinal);
        var order = (RotationOrder)dice.Next(7);
        var after = new SetRotationOrder([node.Id], order).Apply(shot);
        Assert.Equal(order, after.Node(node.Id).RotationOrder);
        // Replacing the node does the same as the edit of its own.
        var replaced = new ReplaceNode(shot.Node(node.Id) with { RotationOrder = order }).Apply(shot);
        Assert.Equal(ShotJson.Write(after), ShotJson.Write(replaced));
        foreach (var f in frames)
        {
            var (a, b) = (new CompiledShot(shot).WorldAt(node.Id, f), new CompiledShot(after).WorldAt(node.Id, f));
            foreach (var p in new Double3[] { new(1, 0, 0), new(0, 1, 0), new(0, 0, 1) })
            {
                Assert.True((a.Point(p) - b.Point(p)).Length < 1e-6 * (1 + a.Largest), $"frame {f}: {a.Point(p)} and {b.Point(p)}");
            }
        }
    });

    [Fact]
    public void Equal_shapes_share_one_mesh_and_too_many_vertices_are_refused_before_they_are_made()
    {
        Assert.Same(MeshCache.Of(new TorusShape(0.7, 0.2, 12, 9)), MeshCache.Of(new TorusShape(0.7, 0.2, 12, 9)));
        static Shot With(params Shape[] shapes) => Shot.Empty("Many") with { Nodes = [.. shapes.Select((s, i) => new MeshNode { Id = $"n{i}", Name = $"N{i}", Shape = s })] };
        Assert.Contains("6303750 vertices", Assert.Throws<Refusal>(() => ShotRules.Validate(With(new BoxShape(Divisions: 1024)))).Message, StringComparison.Ordinal);
        ShotRules.Validate(With([.. Enumerable.Repeat(new BoxShape(Divisions: 500), 30)]));
        Assert.Contains("together", Assert.Throws<Refusal>(() => ShotRules.Validate(With([.. Enumerable.Range(1, 30).Select(i => new BoxShape(i, Divisions: 500))]))).Message, StringComparison.Ordinal);
        // What is promised is what is made.
        foreach (var shape in new Shape[] { new BoxShape(Divisions: 3), new SphereShape(1, 7, 5), new CylinderShape(1, 0.5, 2, 9, 4), new TorusShape(1, 0.2, 11, 6), new PlaneShape(Divisions: 4) })
        {
            Assert.Equal(shape.VertexCount, shape.Build().VertexCount);
        }
    }

    [Fact]
    public void What_stands_nowhere_is_not_seen()
    {
        var nodes = Enumerable.Range(0, 30).Select(i => new GroupNode { Id = $"g{i}", Name = "G", Parent = i == 0 ? null : $"g{i - 1}", Channels = Shots.Channels(("transform.scale.x", 1e12), ("transform.translate.x", 1)) });
        var state = new FrameState(new CompiledShot(Shot.Empty("Huge") with { Nodes = [.. nodes] }));
        state.Evaluate(0);
        Assert.True(state.Visible[0]);
        Assert.False(state.Visible[29]);
        var buffers = new FrameBuffers();
        buffers.Fill(state);
        Assert.Equal(0, buffers.Seen[29]);
    }

    [Fact]
    public void A_deformer_measures_what_the_one_before_it_has_made()
    {
        // Squashed to a tenth and then twisted by 90°: the top turns by the whole angle, wherever it has come to lie.
        var box = new MeshNode { Id = "b", Name = "B", Shape = new BoxShape(1, 2, 1, 4), Deformers = [new Shaping.SquashDeformer { Id = "s" }, new Shaping.TwistDeformer { Id = "t" }] };
        var shot = (Shot.Empty("Bent") with { Nodes = [box] }).With(Shots.At("b/deform.s.amount"), new(1)).With(Shots.At("b/deform.t.angle"), new(90));
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(0);
        var (rest, bent) = (state.Mesh(0)!.Rest.Positions, state.Mesh(0)!.Positions);
        for (var v = 0; v < rest.Length; v += 3)
        {
            if (rest[v + 1] == 1 && rest[v] == 0.5f && rest[v + 2] == 0.5f)
            {
                Assert.Equal(0.5 / Math.Sqrt(2), bent[v], 1e-6);
                Assert.Equal(-0.5 / Math.Sqrt(2), bent[v + 2], 1e-6);
            }
        }
    }

    [Fact]
    public void Duplicates_get_free_names_that_are_not_too_long()
    {
        var name = new string('ö', 200);
        var shot = Shot.Empty("Names") with { Nodes = [new GroupNode { Id = "a", Name = name }, new GroupNode { Id = "b", Name = "7" }] };
        var after = new DuplicateNodes(["a", "b"], "x").Apply(shot);
        Assert.Equal([name[..198] + " 2", "7 2"], after.Nodes.Skip(2).Select(n => n.Name));
    }

    [Fact]
    public void A_change_of_many_parts_can_be_stopped()
    {
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() => new Batch("b", [new Rename("base", "B")]).Apply(Shots.Crane(), stop.Token));
    }
}
