using System.Text;
using System.Text.Json.Nodes;
using Bradymotus.Core;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;
using Bradymotus.Core.Shaping;
using Bradymotus.Core.Time;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats.Tests;

/// <summary>What is read from glTF. That it stands and bends as it should is checked against another program in tests/outside/gltf.test.ts.</summary>
public class GltfTests
{
    [Fact]
    public void A_mesh_is_the_same_after_its_file_and_the_file_the_same_every_time() => Laws.ForSeeds((dice, _) =>
    {
        var mesh = SomeFiles.Mesh(dice);
        var bytes = MeshFile.Write(mesh);
        Assert.Equal(bytes, MeshFile.Write(mesh));
        var back = MeshFile.Read(bytes);
        Assert.Equal(mesh.Positions, back.Positions);
        Assert.Equal(mesh.Indices, back.Indices);
        Assert.Equal(mesh.TexCoords, back.TexCoords);
        Assert.Equal(mesh.Colors, back.Colors);
        Assert.Equal(mesh.Parts, back.Parts);
        Assert.Equal(mesh.Targets.Length, back.Targets.Length);
        for (var t = 0; t < mesh.Targets.Length; t++)
        {
            Assert.Equal(mesh.Targets[t].Vertices, back.Targets[t].Vertices);
            Assert.Equal(mesh.Targets[t].Positions, back.Targets[t].Positions);
            Assert.Equal(mesh.Targets[t].Normals, back.Targets[t].Normals);
        }
        Assert.Equal(mesh.Weights?.Joints, back.Weights?.Joints);
        for (var i = 0; i < (mesh.Weights?.Weights.Length ?? 0); i++)
        {
            Assert.Equal(mesh.Weights!.Weights[i], back.Weights!.Weights[i], 1e-6f);
        }
    }, 100);

    [Fact]
    public void The_path_of_a_point_follows_joints_and_morph_targets_and_waits_for_its_mesh()
    {
        var imported = Import(SomeFiles.Gull());
        var skin = imported.Shot.Nodes.OfType<MeshNode>().Single();
        var shot = new TraceVertices(skin.Id, [5, 0, 100_000]).Apply(imported.Shot) with { Name = "Traced" };
        var assets = new ShotAssets();
        var paths = new VertexPaths(assets);
        void All()
        {
            while (paths.Step(20))
            {
            }
        }
        paths.Show(shot, 0, 48);
        All();
        Assert.True(double.IsNaN(paths.Meshes[0].Points[0][0]));
        foreach (var asset in imported.Assets)
        {
            assets.Put(asset.Name, MeshFile.Read(asset.Bytes));
        }
        paths.ReloadAssets();
        All();
        var state = new FrameState(new CompiledShot(shot), assets);
        var places = new HashSet<Double3>();
        for (var frame = 0; frame <= 48; frame++)
        {
            state.Evaluate(frame);
            var i = state.Compiled.IndexOfNode(skin.Id);
            var (mesh, world) = (state.Mesh(i)!, state.World[i]);
            var place = world.Point(new(mesh.Positions[15], mesh.Positions[16], mesh.Positions[17]));
            Assert.Equal([place.X, place.Y, place.Z], paths.Meshes[0].Points[0][(3 * frame)..(3 * frame + 3)]);
            places.Add(place);
        }
        Assert.InRange(places.Count, 20, 49);
        // A point that the mesh does not have is nowhere.
        Assert.All(paths.Meshes[0].Points[2], n => Assert.True(double.IsNaN(n)));

        // What does not carry it leaves it alone; what turns a joint works it out again.
        var version = paths.Meshes[0].Version;
        paths.Show(new AddNodes([new GroupNode { Id = "rock", Name = "Rock" }]).Apply(shot), 0, 48);
        Assert.False(paths.Step(0));
        Assert.Equal(version, paths.Meshes[0].Version);
        paths.Show(new SetValues([new(new(shot.Nodes.OfType<JointNode>().First().Id, "transform.translate.y"), 5)]).Apply(shot), 0, 48);
        Assert.True(paths.Step(0));
    }

    [Fact]
    public void A_file_becomes_a_shot_that_keeps_to_the_rules_and_reads_back_from_its_own_text()
    {
        var imported = Import(SomeFiles.Gull());
        ShotRules.Validate(imported.Shot);
        Assert.Equal(ShotJson.Write(imported.Shot), ShotJson.Write(ShotJson.ReadShot(ShotJson.Write(imported.Shot))));
        Assert.Equal(["Body", "Wing", "Tip", "Skin"], imported.Shot.Nodes.Select(n => n.Name));
        var skin = imported.Shot.Nodes.OfType<MeshNode>().Single();
        Assert.Equal(["call", "glide"], skin.Deformers.OfType<MorphDeformer>().Single().Targets);
        Assert.Equal([.. imported.Shot.Nodes.OfType<JointNode>().Select(j => j.Id)], skin.Deformers.OfType<SkinDeformer>().Single().Joints.AsEnumerable());
        var wing = imported.Shot.Nodes[1];
        Assert.Equal(RotationOrder.Quaternion, wing.RotationOrder);
        Assert.Equal([0, 24, 48], wing.Channels!["transform.quaternion.z"].Curve!.Keys.Select(k => k.Frame));
        Assert.Equal(new FrameRange(0, 48), imported.Shot.Range);
    }

    [Fact]
    public void What_layers_do_is_in_the_file()
    {
        Channel Keyed(params (double Frame, double Value)[] keys) => new(0, new Core.Curves.Curve([.. keys.Select(k => new Core.Curves.Key(k.Frame, k.Value))]));
        var shot = Shot.Empty("Layers") with
        {
            Range = new FrameRange(0, 12),
            Layers = [new("lift", "Lift"), new("silent", "Silent", Muted: true)],
            Nodes = [new MeshNode { Id = "b", Name = "B", Shape = new BoxShape() }],
        };
        shot = shot.With(new("b", "transform.translate.y"), Keyed((0, 0), (12, 3))).With(new("b", "transform.translate.y@lift"), Keyed((0, 1), (6, -1), (12, 2)))
            .With(new("b", "transform.rotate.x"), new Channel(30)).With(new("b", "transform.rotate.y@lift"), Keyed((0, 0), (12, 90))).With(new("b", "transform.translate.x@silent"), new Channel(9));
        var back = Import(GltfWriter.Write(shot, new ShotAssets()).Bytes).Shot;
        var (one, two) = (new CompiledShot(shot), new CompiledShot(back));
        var id = back.Nodes.OfType<MeshNode>().Single().Id;
        for (var f = 0; f <= 12; f++)
        {
            var (a, b) = (one.WorldAt("b", f), two.WorldAt(id, f));
            Assert.True((a.Origin - b.Origin).Length < 1e-5 && (a.X - b.X).Length < 1e-5 && (a.Y - b.Y).Length < 1e-5, $"frame {f}: {a} and {b}");
        }
    }

    [Fact]
    public void Frames_are_seconds_times_the_frame_rate()
    {
        var shot = Import(SomeFiles.Gull(), new(FrameRate.Nearest(29.97))).Shot;
        Assert.Equal(new FrameRate(30000, 1001), shot.Rate);
        Assert.Equal(30000 / 1001.0, shot.Nodes[1].Channels!["transform.quaternion.z"].Curve!.Keys[1].Frame, 12);
    }

    [Fact]
    public void A_file_says_the_rate_and_the_frames_of_its_shot()
    {
        var shot = Shot.Empty("Sign") with { Rate = new(24000, 1001), Range = new(1001, 1100), Nodes = [new GroupNode { Id = "b", Name = "B" }] };
        shot = shot.With(new("b", "transform.translate.x"), new Channel(0, new Curve([new(1001, 0), new(1011, 1)])));
        var bytes = GltfWriter.Write(shot, new ShotAssets()).Bytes;
        var extras = SharpGLTF.Schema2.ModelRoot.ParseGLB(bytes).DefaultScene.Extras;
        Assert.Equal(24000 / 1001.0, (double)extras["framesPerSecond"]!, 12);
        Assert.Equal(1001, (int)extras["firstFrame"]!);
        // In a shot of its own it has its rate and its length, in one of another rate keys keep their seconds, and that is said.
        var own = Import(bytes, new());
        Assert.Equal((shot.Rate, 100, 10), (own.Shot.Rate, own.Shot.Range.Last + 1, Math.Round(own.Shot.AllSetChannels().Max(c => c.Channel.Curve?.Keys[^1].Frame ?? 0), 3)));
        var other = Import(bytes, new(new FrameRate(30)));
        Assert.Equal(new FrameRate(30), other.Shot.Rate);
        Assert.Contains(other.Report.Skipped, s => s.Contains("24000/1001", StringComparison.Ordinal) && s.Contains("30", StringComparison.Ordinal));
        Assert.DoesNotContain(Import(bytes, new(shot.Rate)).Report.Skipped, s => s.Contains("frames a second", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("""{"frameRate":"0/0"}""")]
    [InlineData("""{"frameRate":"-24"}""")]
    [InlineData("""{"frameRate":"1e9"}""")]
    [InlineData("""{"frameRate":{"a":1}}""")]
    [InlineData("""{"framesPerSecond":1e300}""")]
    [InlineData("24")]
    public void A_rate_that_none_can_mean_is_passed_over(string extras)
    {
        var model = SharpGLTF.Schema2.ModelRoot.CreateModel();
        var scene = model.UseScene("a");
        scene.CreateNode("b");
        scene.Extras = System.Text.Json.Nodes.JsonNode.Parse(extras);
        Assert.Equal(FrameRate.Default, Import([.. model.WriteGLB()], new()).Shot.Rate);
    }

    [Theory]
    [InlineData("""{"framesPerSecond":25,"lastFrame":1e18}""", 47)]
    [InlineData("""{"framesPerSecond":25,"firstFrame":9,"lastFrame":3}""", 47)]
    [InlineData("""{"framesPerSecond":25,"firstFrame":"x","lastFrame":11}""", 11)]
    public void Frames_that_none_can_mean_leave_the_rate(string extras, int last)
    {
        var model = SharpGLTF.Schema2.ModelRoot.CreateModel();
        var scene = model.UseScene("a");
        scene.CreateNode("b");
        scene.Extras = System.Text.Json.Nodes.JsonNode.Parse(extras);
        var shot = Import([.. model.WriteGLB()], new()).Shot;
        Assert.Equal((new FrameRate(25), last), (shot.Rate, shot.Range.Last));
    }

    [Fact]
    public void A_skin_is_bent_anew_only_where_a_joint_or_a_weight_has_changed()
    {
        var imported = Import(SomeFiles.Gull());
        var meshes = new ShotAssets();
        var state = new FrameState(new CompiledShot(imported.Shot), meshes);
        state.Evaluate(0);
        var skin = state.Compiled.IndexOfNode(imported.Shot.Nodes[3].Id);
        // Its mesh has not come yet: it is drawn as nothing.
        Assert.Equal(imported.Assets.Select(a => a.Name), state.MissingAssets());
        Assert.Empty(state.Mesh(skin)!.Positions);
        meshes.Put(imported.Assets[0].Name, MeshFile.Read(imported.Assets[0].Bytes));
        state.ReloadAssets();
        state.Evaluate(0);
        Assert.Empty(state.MissingAssets());
        var version = state.Mesh(skin)!.Version;
        state.Evaluate(0);
        Assert.Equal(version, state.Mesh(skin)!.Version);
        state.Evaluate(12);
        Assert.NotEqual(version, state.Mesh(skin)!.Version);
        version = state.Mesh(skin)!.Version;
        // After the last key nothing moves.
        state.Evaluate(48);
        var end = state.Mesh(skin)!.Version;
        Assert.NotEqual(version, end);
        state.Evaluate(60);
        Assert.Equal(end, state.Mesh(skin)!.Version);
    }

    [Fact]
    public void A_mesh_that_has_come_twice_is_one_asset_and_a_damaged_one_does_not_keep_the_others_out()
    {
        var json = SomeFiles.Triangles(nodes: 3);
        ((JsonArray)json["accessors"]!).Add(JsonNode.Parse("""{"bufferView":0,"componentType":5126,"count":50,"type":"VEC3"}"""));
        ((JsonArray)json["meshes"]!).Add(JsonNode.Parse("""{"name":"broken","primitives":[{"attributes":{"POSITION":2},"indices":1}]}"""));
        json["nodes"]![2]!["mesh"] = 1;
        var imported = Import(SomeFiles.Text(json));
        Assert.Single(imported.Assets);
        Assert.Equal(2, imported.Shot.Nodes.OfType<MeshNode>().Count());
        Assert.IsType<GroupNode>(imported.Shot.Nodes[2]);
        Assert.Contains(imported.Report.Skipped, m => m.Contains("broken", StringComparison.Ordinal));
    }

    /// <summary>glTF 2.0, section 3.7.2.1: “When normals are not specified, client implementations MUST calculate flat normals”.</summary>
    [Fact]
    public void What_has_no_normals_is_flat_and_what_has_them_keeps_them()
    {
        var model = SharpGLTF.Schema2.ModelRoot.CreateModel();
        var mesh = model.CreateMesh("roof");
        var node = model.UseScene(0).CreateNode("roof");
        node.Mesh = mesh;
        SharpGLTF.Schema2.Accessor Floats(float[] data)
        {
            var accessor = model.CreateAccessor();
            var bytes = new byte[4 * data.Length];
            Buffer.BlockCopy(data, 0, bytes, 0, bytes.Length);
            accessor.SetVertexData(model.UseBufferView(bytes, 0, null, 0, SharpGLTF.Schema2.BufferMode.ARRAY_BUFFER), 0, data.Length / 3, new SharpGLTF.Memory.AttributeFormat(SharpGLTF.Schema2.DimensionType.VEC3, SharpGLTF.Schema2.EncodingType.FLOAT, false));
            return accessor;
        }
        // Two slopes that share their ridge, without normals and with.
        float[] roof = [-1, 0, 0, -1, 0, 2, 0, 1, 0, 0, 1, 2, 1, 0, 0, 1, 0, 2];
        foreach (var normals in new[] { null, Enumerable.Repeat(new[] { 0f, 1, 0 }, 6).SelectMany(x => x).ToArray() })
        {
            var primitive = mesh.CreatePrimitive();
            primitive.SetVertexAccessor("POSITION", Floats(roof));
            if (normals is not null)
            {
                primitive.SetVertexAccessor("NORMAL", Floats(normals));
            }
            primitive.SetMorphTargetAccessors(0, new Dictionary<string, SharpGLTF.Schema2.Accessor> { ["POSITION"] = Floats([.. roof.Select(x => x / 2)]) });
            var indices = model.CreateAccessor();
            indices.SetIndexData(model.UseBufferView(System.Runtime.InteropServices.MemoryMarshal.AsBytes(new[] { 0, 1, 2, 2, 1, 3, 2, 3, 4, 4, 3, 5 }.AsSpan()).ToArray(), 0, null, 0, SharpGLTF.Schema2.BufferMode.ELEMENT_ARRAY_BUFFER), 0, 12, SharpGLTF.Schema2.IndexEncodingType.UNSIGNED_INT);
            primitive.SetIndexAccessor(indices);
        }
        var imported = Import([.. model.WriteGLB(new() { Validation = SharpGLTF.Validation.ValidationMode.Skip })]);
        var read = MeshFile.Read(imported.Assets[0].Bytes);
        Assert.Equal((6 + 12, 8), (read.VertexCount, read.TriangleCount));
        for (var i = 0; i < read.Indices.Length; i++)
        {
            var v = 3 * read.Indices[i];
            var expected = i >= 12 ? new System.Numerics.Vector3(0, 1, 0) : System.Numerics.Vector3.Normalize(new(i < 6 ? -1 : 1, 1, 0));
            Assert.True((new System.Numerics.Vector3(read.Normals[v], read.Normals[v + 1], read.Normals[v + 2]) - expected).Length() < 1e-5, $"corner {i}");
        }
        // The target goes along with its vertices.
        var target = read.Targets[0];
        Assert.Null(target.Vertices);
        Assert.Equal(read.Positions.Select(p => p / 2), target.Positions);
    }

    [Fact]
    public void A_picture_that_is_not_there_keeps_nothing_out_and_a_buffer_does()
    {
        var json = SomeFiles.Triangles();
        json["images"] = JsonNode.Parse("""[{"uri":"hull.png"}]""");
        json["textures"] = JsonNode.Parse("""[{"source":0}]""");
        json["materials"] = JsonNode.Parse("""[{"name":"Hull","pbrMetallicRoughness":{"baseColorTexture":{"index":0}}}]""");
        json["meshes"]![0]!["primitives"]![0]!["material"] = 0;
        var imported = Import(SomeFiles.Text(json));
        Assert.Single(imported.Shot.Nodes.OfType<MeshNode>());
        Assert.Contains(imported.Report.Skipped, m => m.Contains("Hull", StringComparison.Ordinal));
        json["buffers"]![0]!["uri"] = "hull.bin";
        Assert.Contains("hull.bin", Assert.Throws<Refusal>(() => Import(SomeFiles.Text(json))).Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("../secret.bin")]
    [InlineData("/etc/hostname")]
    [InlineData("a/../../secret.bin")]
    [InlineData("..\\secret.bin")]
    [InlineData("file:///etc/hostname")]
    [InlineData("missing.bin")]
    public void A_path_that_leaves_the_folder_or_leads_nowhere_is_refused(string path)
    {
        var folder = Directory.CreateTempSubdirectory();
        File.WriteAllBytes(Path.Combine(folder.FullName, "secret.bin"), new byte[42]);
        var inner = folder.CreateSubdirectory("inner");
        var json = SomeFiles.Triangles();
        json["buffers"]![0]!["uri"] = path;
        var file = Path.Combine(inner.FullName, "a.gltf");
        File.WriteAllText(file, json.ToJsonString());
        var refusal = Assert.Throws<Refusal>(() => Importer.Read(new FileOnDisk(file), new(FrameRate.Default)));
        Assert.Contains("a.gltf", refusal.Message, StringComparison.Ordinal);
        folder.Delete(recursive: true);
    }

    [Theory]
    [InlineData("../outside", false)]
    [InlineData("../inner/data", true)]
    [InlineData("round", false)]
    public void A_folder_that_is_a_link_is_followed_within_the_folder_of_the_file_only(string target, bool isTaken)
    {
        var folder = Directory.CreateTempSubdirectory();
        var inner = folder.CreateSubdirectory("inner");
        var json = SomeFiles.Triangles();
        var bytes = Convert.FromBase64String(((string)json["buffers"]![0]!["uri"]!).Split(',')[1]);
        foreach (var place in (DirectoryInfo[])[folder.CreateSubdirectory("outside"), inner.CreateSubdirectory("data")])
        {
            File.WriteAllBytes(Path.Combine(place.FullName, "a.bin"), bytes);
        }
        Directory.CreateSymbolicLink(Path.Combine(inner.FullName, "round"), target);
        json["buffers"]![0]!["uri"] = "round/a.bin";
        var file = Path.Combine(inner.FullName, "a.gltf");
        File.WriteAllText(file, json.ToJsonString());
        Imported Read() => Importer.Read(new FileOnDisk(file), new(FrameRate.Default));
        if (isTaken)
        {
            Assert.Single(Read().Shot.Nodes);
        }
        else
        {
            Assert.Contains("outside its own folder", Assert.Throws<Refusal>(Read).Message, StringComparison.Ordinal);
        }
        folder.Delete(recursive: true);
    }

    [Theory]
    [InlineData("", "cannot be read")]
    [InlineData("not a model", "cannot be read")]
    [InlineData("""{"asset":{"version":"1.0"}}""", "cannot be read")]
    [InlineData("""{"asset":{"version":"2.0"},"nodes":[{"children":[1]},{"children":[0]}],"scenes":[{"nodes":[0]}],"scene":0}""", "below itself")]
    [InlineData("""{"asset":{"version":"2.0"},"nodes":[{"children":[7]}],"scenes":[{"nodes":[0]}],"scene":0}""", "")]
    [InlineData("""{"asset":{"version":"2.0"}}""", "")]
    public void What_is_no_model_is_refused_in_a_sentence_or_is_empty(string text, string expected)
    {
        try
        {
            var shot = Importer.Read(new FilesInMemory("a.gltf", new Dictionary<string, byte[]> { ["a.gltf"] = Encoding.UTF8.GetBytes(text) }), new(FrameRate.Default)).Shot;
            Assert.Equal("", expected);
            Assert.True(shot.Nodes.Length <= 2);
        }
        catch (Refusal e)
        {
            Assert.Contains(expected, e.Message, StringComparison.Ordinal);
            Assert.DoesNotContain('\n', e.Message);
        }
    }

    [Fact]
    public void Too_many_nodes_and_too_many_vertices_are_refused_with_the_number()
    {
        Assert.Contains("20000 nodes", Assert.Throws<Refusal>(() => Import(SomeFiles.Text(SomeFiles.Triangles(nodes: 100_000)))).Message, StringComparison.Ordinal);
        var json = SomeFiles.Triangles();
        // Without bytes of its own an accessor is all zeros, of any length.
        json["accessors"]![0] = JsonNode.Parse("""{"componentType":5126,"count":2000000000,"type":"VEC3","min":[0,0,0],"max":[0,0,0]}""");
        Assert.Contains(Import(SomeFiles.Text(json)).Report.Skipped, m => m.Contains("2000000000 vertices", StringComparison.Ordinal));
    }

    [Fact]
    public void A_small_file_that_asks_for_gigabytes_is_counted_before_any_is_taken()
    {
        var json = SomeFiles.Triangles(nodes: 2);
        ((JsonArray)json["accessors"]!).Add(JsonNode.Parse("""{"componentType":5126,"count":1000000,"type":"VEC3","min":[0,0,0],"max":[0,0,0]}"""));
        var targets = new JsonArray([.. Enumerable.Range(0, 100).Select(_ => JsonNode.Parse("""{"POSITION":2}"""))]);
        ((JsonArray)json["meshes"]!).Add(new JsonObject { ["name"] = "mass", ["primitives"] = new JsonArray(new JsonObject { ["attributes"] = new JsonObject { ["POSITION"] = 2 }, ["targets"] = targets }) });
        json["nodes"]![1]!["mesh"] = 1;
        var before = GC.GetAllocatedBytesForCurrentThread();
        var imported = Import(SomeFiles.Text(json));
        Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 64 << 20);
        // The mesh beside it comes in.
        Assert.Equal(1, Assert.IsType<AssetShape>(Assert.IsType<MeshNode>(imported.Shot.Nodes[0]).Shape).Triangles);
        Assert.Contains(imported.Report.Skipped, m => m.Contains("256 MB of memory", StringComparison.Ordinal));
    }

    [Fact]
    public void Corners_that_many_parts_share_are_counted_each_time()
    {
        var json = SomeFiles.Triangles();
        ((JsonArray)json["accessors"]!).Add(JsonNode.Parse("""{"componentType":5125,"count":2999997,"type":"SCALAR"}"""));
        json["meshes"]![0]!["primitives"] = new JsonArray([.. Enumerable.Range(0, 100).Select(_ => JsonNode.Parse("""{"attributes":{"POSITION":0},"indices":2}"""))]);
        Assert.Contains(Import(SomeFiles.Text(json)).Report.Skipped, m => m.Contains("256 MB of memory", StringComparison.Ordinal));
    }

    [Fact]
    public void Numbers_that_are_none_and_vertices_that_are_not_there_are_left_out()
    {
        var json = SomeFiles.Triangles(positions: [0, 0, 0, 1, float.NaN, 0, 0, 1, 0]);
        Assert.Contains(Import(SomeFiles.Text(json)).Report.Skipped, m => m.Contains("NaN", StringComparison.Ordinal));
        json = SomeFiles.Triangles(indices: [0, 1, 2, 0, 1, 65535]);
        var imported = Import(SomeFiles.Text(json));
        Assert.Equal(1, ((AssetShape)((MeshNode)imported.Shot.Nodes[0]).Shape).Triangles);
        Assert.Contains(imported.Report.Skipped, m => m.StartsWith("1 triangles", StringComparison.Ordinal));
    }

    [Fact]
    public void A_damaged_file_is_refused_in_a_sentence_or_gives_a_shot_that_keeps_to_the_rules() => Laws.ForSeeds((dice, _) =>
    {
        var bytes = (byte[])SomeFiles.Gull().Clone();
        if (dice.Next(3) == 0)
        {
            bytes = bytes[..dice.Next(bytes.Length)];
        }
        for (var i = dice.Next(1, 20); i > 0 && bytes.Length > 0; i--)
        {
            bytes[dice.Next(bytes.Length)] = (byte)dice.Next(256);
        }
        try
        {
            var imported = Import(bytes);
            ShotRules.Validate(imported.Shot);
            Assert.All(imported.Assets, a => MeshFile.Read(a.Bytes));
        }
        catch (Refusal e)
        {
            Assert.DoesNotContain('\n', e.Message);
        }
    }, 300);

    /// <summary>Its first frame is second 0 of the file, and what comes before that has no time there: the shape from there on is the same.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(1001)]
    [InlineData(-24)]
    public void A_shot_that_begins_anywhere_is_written_from_its_first_frame_on(int first)
    {
        var x = new ChannelAddress("b", "transform.translate.x");
        var shot = Shot.Empty("Late") with { Range = new(first, first + 48), Nodes = [new MeshNode { Id = "b", Name = "Ball", Shape = new SphereShape() }] };
        // It has begun to move before, and goes on after.
        var curve = new Curve([new(first - 12, 3), new(first + 24, 0), new(first + 60, 5)]);
        var written = GltfWriter.Write(shot.With(x, new Channel(0, curve)), new ShotAssets());
        var back = Import(written.Bytes).Shot;
        var ball = Assert.Single(back.Nodes);
        for (var f = 0; f <= 48; f += 3)
        {
            Assert.Equal(curve.Evaluate(first + f), CompiledShot.ValueOf(back, new(ball.Id, "transform.translate.x"), f), 1e-4);
        }
        Assert.Equal(first != 0, written.Changed.Any(m => m.Contains($"Frame {first}, where the shot begins", StringComparison.Ordinal)));
    }

    [Fact]
    public void Keys_that_are_the_same_time_in_a_file_are_written_all_the_same()
    {
        var x = new ChannelAddress("b", "transform.translate.x");
        var shot = Shot.Empty("Close") with { Nodes = [new MeshNode { Id = "b", Name = "Ball", Shape = new SphereShape() }] };
        foreach (var frames in new[] { new[] { 0, 1e-5, 24 }, [0, 24, 24.00001], [0, 1e8, 1e8 + 1], [-1e9, 1e9, 1e9 - 1] })
        {
            var curve = new Curve([.. frames.Order().Select((f, i) => new Key(f, i, Segment.Linear))]);
            var back = Import(GltfWriter.Write(shot.With(x, new Channel(0, curve)), new ShotAssets()).Bytes).Shot;
            Assert.Equal(curve.Evaluate(12), CompiledShot.ValueOf(back, new(back.Nodes[0].Id, "transform.translate.x"), 12), 1e-3);
        }
    }

    [Fact]
    public void A_clip_has_the_range_that_it_lasts()
    {
        var x = new ChannelAddress("b", "transform.translate.x");
        var shot = Shot.Empty("Short") with { Range = new(0, 10), Nodes = [new MeshNode { Id = "b", Name = "Ball", Shape = new SphereShape() }] };
        var moving = shot.With(x, new Channel(0, new Curve([new(0, 0, Segment.Linear), new(10, 1)])));
        Assert.Equal(new(0, 10), Import(GltfWriter.Write(moving, new ShotAssets()).Bytes).Shot.Range);
        // What stands still has the frames that the file says; where those are of another rate, two seconds.
        var still = GltfWriter.Write(shot, new ShotAssets()).Bytes;
        Assert.Equal(new(0, 10), Import(still).Shot.Range);
        Assert.Equal(new(0, 47), Import(still, new(new FrameRate(30))).Shot.Range);
    }

    private static Imported Import(byte[] glb, ImportOptions? options = null) =>
        Importer.Read(new FilesInMemory("gull.glb", new Dictionary<string, byte[]> { ["gull.glb"] = glb }), options ?? new(FrameRate.Default));
}
