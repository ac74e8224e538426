using System.Numerics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;

namespace Bradymotus.Render;

/// <summary>Values of a frame, as rendering takes them: bounded, and colours as light.</summary>
internal readonly struct ChannelReader(FrameState state)
{
    public double this[string owner, string path] => state.Value(new(owner, path));

    public Vector3 Colour(string owner, string path) => Vector3.Max(Vector3.Zero,
        new((float)this[owner, path + ".r"], (float)this[owner, path + ".g"], (float)this[owner, path + ".b"]));

    public Double3 Ground => new(Math.Max(0, this[Shot.WorldOwner, "sky.ground.r"]), Math.Max(0, this[Shot.WorldOwner, "sky.ground.g"]), Math.Max(0, this[Shot.WorldOwner, "sky.ground.b"]));

    public Vector3 Light(string owner) =>
        Colour(owner, "light.color") * RenderScene.ToVector(BlackBody.Linear(this[owner, "light.kelvin"])) * (float)Math.Max(0, this[owner, "light.strength"]);

    public Surface Surface(string owner)
    {
        var color = Vector3.Min(Vector3.One, Colour(owner, "look.color"));
        return new(color, (float)this[owner, "look.roughness"], (float)Math.Clamp(this[owner, "look.metallic"], 0, 1),
            Colour(owner, "look.emissionColor") * (float)Math.Max(0, this[owner, "look.emission"]), (float)Math.Clamp(this[owner, "look.opacity"], 0, 1))
        { Layers = Layers(owner) };
    }

    private Layers? Layers(string owner)
    {
        var reader = this;
        float Of(string name, double most = 1) => (float)Math.Clamp(reader[owner, $"look.{name}"], 0, most);
        var layers = new Layers(Math.Max(1, Of("ior", 3)), Of("glass"), reader[owner, "look.thin"] >= 0.5, Of("coat"), Of("coatRoughness"),
            Colour(owner, "look.sheenColor") * Of("sheen"), Of("sheenRoughness"), Of("subsurface"), Math.Max(0.0001f, Of("subsurfaceRadius", 1e6)));
        return layers is { Ior: 1.5f, Glass: 0, Coat: 0, Subsurface: 0 } && layers.Sheen == Vector3.Zero ? null : layers;
    }

    /// <summary>A lamp where it stands.</summary>
    public Lamp Lamp(LampNode lamp, in Affine world)
    {
        var reader = this;
        float Of(string name, double least) => (float)Math.Max(least, reader[lamp.Id, $"light.{name}"]);
        var (position, light, forward) = (RenderScene.ToVector(world.Origin), reader.Light(lamp.Id), RenderScene.ToVector((-world.Z).Normalized()));
        switch (lamp.Form)
        {
            case LampForm.Spot:
                var half = Math.Clamp(Of("cone", 1), 1, 180) / 2;
                var (outer, inner) = (Real.CosDegrees(half), Real.CosDegrees(half * (1 - Math.Clamp(Of("softness", 0), 0, 1))));
                return new BallLamp(position, Of("radius", 0.001), light / (4 * MathF.PI), forward, (float)outer, (float)inner);
            case LampForm.Rectangle or LampForm.Disc:
                var isRound = lamp.Form == LampForm.Disc;
                var (right, up) = (RenderScene.ToVector(world.X), RenderScene.ToVector(world.Y));
                return isRound
                    ? new PanelLamp(position, right * Of("radius", 0.001), up * Of("radius", 0.001), forward, true, light)
                    : new PanelLamp(position, right * (Of("width", 0.001) / 2), up * (Of("height", 0.001) / 2), forward, false, light);
            default:
                return new BallLamp(position, Of("radius", 0.001), light / (4 * MathF.PI));
        }
    }
}
