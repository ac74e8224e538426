using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats.Tests;

/// <summary>Materials, lights and cameras that are keyed, through KHR_animation_pointer.</summary>
public sealed class PointerTests
{
    private static Channel Keyed(params (double Frame, double Value)[] keys) => new(keys[0].Value, new Curve([.. keys.Select(k => new Key(k.Frame, k.Value, Segment.Linear))]));

    private static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, Channel Channel)[] channels) =>
        channels.ToImmutableSortedDictionary(c => c.Path, c => c.Channel, StringComparer.Ordinal);

    private static Shot Shot() => Core.Scene.Shot.Empty("Lit") with
    {
        Range = new(0, 24),
        Nodes =
        [
            new MeshNode { Id = "box", Name = "Box", Shape = new BoxShape(), Material = "paint" },
            new LampNode { Id = "spot", Name = "Spot", Form = LampForm.Spot, Channels = Channels(("light.strength", Keyed((0, 10), (24, 250))), ("light.color.g", Keyed((0, 1), (12, 0.25))), ("light.cone", Keyed((0, 20), (24, 80)))) },
            new SunNode { Id = "sun", Name = "Sun", Channels = Channels(("light.strength", Keyed((0, 0), (24, 4)))) },
            new CameraNode { Id = "long", Name = "Long", Channels = Channels(("camera.fov", Keyed((0, 60), (24, 20)))) },
            new CameraNode { Id = "flat", Name = "Flat", Projection = Projection.Orthographic, Channels = Channels(("camera.height", Keyed((0, 4), (24, 9)))) },
        ],
        Materials =
        [
            new("paint", "Paint", Channels(
                ("look.color.r", Keyed((0, 0), (24, 1))), ("look.opacity", Keyed((0, 1), (24, 0.25))), ("look.roughness", Keyed((0, 0.2), (24, 0.9))), ("look.metallic", Keyed((0, 0), (24, 1))),
                ("look.emission", Keyed((0, 0), (12, 5), (24, 1))), ("look.emissionColor.g", new(0.5)), ("look.coat", Keyed((0, 0), (24, 1))))),
        ],
    };

    [Fact]
    public void Keyed_lights_cameras_and_materials_come_back_as_they_were_at_every_sample()
    {
        var shot = Shot();
        ShotRules.Validate(shot);
        var written = GltfWriter.Write(shot, new ShotAssets());
        Assert.Contains(written.Changed, c => c.Contains("KHR_animation_pointer", StringComparison.Ordinal));
        // What the extension has no name for, or is not written, is said: the coat.
        Assert.Contains(written.Changed, c => c.Contains("Paint stands still", StringComparison.Ordinal));
        var back = Importer.Read(new FilesInMemory("lit.glb", new Dictionary<string, byte[]> { ["lit.glb"] = written.Bytes }), new(FrameRate.Default));
        Assert.Empty(back.Report.Skipped);
        var (a, b) = (new FrameState(new CompiledShot(shot)), new FrameState(new CompiledShot(back.Shot), back.ToAssets()));
        string Id(string name) => back.Shot.Nodes.FirstOrDefault(n => n.Name == name)?.Id ?? back.Shot.Materials.Single(m => m.Name == name).Id;
        foreach (var frame in new[] { 0.0, 3, 12, 17, 24 })
        {
            a.Evaluate(frame);
            b.Evaluate(frame);
            foreach (var (own, name, path) in new[]
            {
                ("spot", "Spot", "light.strength"), ("spot", "Spot", "light.color.g"), ("spot", "Spot", "light.cone"), ("sun", "Sun", "light.strength"), ("long", "Long", "camera.fov"), ("flat", "Flat", "camera.height"),
                ("paint", "Paint", "look.color.r"), ("paint", "Paint", "look.opacity"), ("paint", "Paint", "look.roughness"), ("paint", "Paint", "look.metallic"),
            })
            {
                Assert.Equal(a.Value(new(own, path)), b.Value(new(Id(name), path)), 1e-3);
            }
            // How bright it glows is in the colour there: the product is the same.
            Assert.Equal(a.Value(new("paint", "look.emission")) * 0.5, b.Value(new(Id("Paint"), "look.emission")) * b.Value(new(Id("Paint"), "look.emissionColor.g")), 1e-3);
        }
    }

    [Fact]
    public void What_an_animation_moves_that_is_not_here_is_said()
    {
        var model = SharpGLTF.Schema2.ModelRoot.ParseGLB(SomeFiles.Gull());
        var animation = model.CreateAnimation("more");
        animation.DangerousCreatePointerChannel("/nodes/0/extensions/KHR_node_visibility/visible", new Dictionary<float, float> { [0] = 0, [1] = 1 }, true, false);
        var imported = Importer.Read(new FilesInMemory("a.glb", new Dictionary<string, byte[]> { ["a.glb"] = [.. model.WriteGLB(new() { Validation = SharpGLTF.Validation.ValidationMode.Skip })] }), new(FrameRate.Default, "more"));
        Assert.Contains(imported.Report.Skipped, m => m.Contains("KHR_node_visibility", StringComparison.Ordinal));
    }
}
