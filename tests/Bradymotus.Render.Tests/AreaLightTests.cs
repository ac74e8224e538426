using System.Collections.Immutable;
using System.Numerics;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using static Bradymotus.Render.Tests.Scenes;

namespace Bradymotus.Render.Tests;

/// <summary>
/// Light of balls and panels against the view factors of J. Howell, "A Catalog of Radiation Heat Transfer Configuration Factors" (B-4: a patch and
/// a rectangle above one of its corners; B-31: a patch and a ball), and light at any exposure, distance and size.
/// </summary>
public class AreaLightTests
{
    private static (string, double)[] Place(double x, double y, double z) => [("transform.translate.x", x), ("transform.translate.y", y), ("transform.translate.z", z)];

    private static CameraNode Camera(double height) =>
        new() { Id = "c", Name = "C", Channels = Channels([.. Place(0, height, 0), ("transform.rotate.x", -90), ("camera.fov", 1)]) };

    private static Shot Dark(ImmutableArray<Node> nodes, params ImmutableArray<Material> materials) =>
        Shot.Empty("Dark") with { Nodes = nodes, Materials = materials, World = Channels(("sky.strength", 0)) };

    private static double Mean(Shot shot, Quality quality = Quality.Final, int samples = 256) => Radiance(shot, 5, quality, samples).Average(r => r.X);

    private static readonly MeshNode Floor = new() { Id = "p", Name = "P", Shape = new PlaneShape(40, 40), Material = "matt" };

    [Theory]
    [InlineData(1.1)]
    [InlineData(2)]
    [InlineData(50)]
    public void A_ball_of_light_lights_as_its_view_factor_has_it_however_close_it_is(double radii)
    {
        const double radius = 0.4;
        var lamp = new LampNode { Id = "l", Name = "L", Channels = Channels([.. Place(0, radii * radius, 0), ("light.strength", 100), ("light.radius", radius)]) };
        // B-31: F = (r/h)², so that E = π·L·F = Φ/4πh².
        var expected = 100 / (4 * Math.PI * Math.Pow(radii * radius, 2)) * 0.5 / Math.PI;
        Assert.Equal(1, Mean(Dark([Floor, Camera(0.2), lamp], Matt("matt", 0.5))) / expected, 0.02);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(0.01)]
    [InlineData(0.05)]
    [InlineData(0.53)]
    [InlineData(40)]
    public void A_sun_gives_as_much_light_whatever_its_size(double angle)
    {
        var sun = new SunNode { Id = "s", Name = "S", Channels = Channels(("transform.rotate.x", -90), ("light.strength", 2), ("light.angle", angle)) };
        Assert.Equal(1, Mean(Dark([Floor, Camera(3), sun], Matt("matt", 0.5))) / (2 * 0.5 / Math.PI), 0.02);
    }

    /// <summary>B-4 for the rectangle, the coaxial disc F = r²/(r² + h²) of the same catalogue for the disc; a Lambertian panel of power P has π·L·A = P.</summary>
    [Theory]
    [InlineData(LampForm.Rectangle, 3, Quality.Final)]
    [InlineData(LampForm.Rectangle, 0.4, Quality.Final)]
    [InlineData(LampForm.Disc, 2, Quality.Final)]
    [InlineData(LampForm.Disc, 0.3, Quality.Preview)]
    public void A_panel_of_light_lights_as_its_view_factor_has_it(LampForm form, double height, Quality quality)
    {
        const double width = 2, depth = 1, radius = 0.7;
        var lamp = new LampNode
        {
            Id = "l",
            Name = "L",
            Form = form,
            Channels = Channels([.. Place(0, height, 0), ("transform.rotate.x", -90), ("light.strength", 100), ("light.width", width), ("light.height", depth), ("light.radius", radius)]),
        };
        double Corner(double a, double b) => (a / Math.Sqrt(1 + a * a) * Math.Atan(b / Math.Sqrt(1 + a * a)) + b / Math.Sqrt(1 + b * b) * Math.Atan(a / Math.Sqrt(1 + b * b))) / (2 * Math.PI);
        var (factor, area) = form == LampForm.Disc
            ? (radius * radius / (radius * radius + height * height), Math.PI * radius * radius)
            : (4 * Corner(width / 2 / height, depth / 2 / height), width * depth);
        var expected = 0.5 * factor * (100 / (Math.PI * area));
        Assert.Equal(1, Mean(Dark([Floor, Camera(0.2), lamp], Matt("matt", 0.5)), quality) / expected, 0.03);
        // Its back is dark.
        var turned = lamp with { Channels = lamp.Channels!.SetItem("transform.rotate.x", new Channel(90)) };
        Assert.Equal(0, Mean(Dark([Floor, Camera(0.2), turned], Matt("matt", 0.5)), quality));
    }

    /// <summary>KHR_lights_punctual, "Inner and Outer Cone Angles": ((cos θ − cos outer) / (cos inner − cos outer))² between the cones.</summary>
    [Theory]
    [InlineData(0)]
    [InlineData(12)]
    [InlineData(25)]
    [InlineData(29)]
    [InlineData(33)]
    public void A_spot_shines_within_its_cone_and_fades_towards_its_rim(double degrees)
    {
        const double height = 3;
        var lamp = new LampNode
        {
            Id = "l",
            Name = "L",
            Form = LampForm.Spot,
            Channels = Channels([.. Place(height * Math.Tan(degrees * Math.PI / 180), height, 0), ("transform.rotate.x", -90), ("light.strength", 100), ("light.radius", 0.01), ("light.cone", 60), ("light.softness", 0.5)]),
        };
        double Cos(double angle) => Math.Cos(angle * Math.PI / 180);
        var part = Math.Pow(Math.Clamp((Cos(degrees) - Cos(30)) / (Cos(15) - Cos(30)), 0, 1), 2);
        var far = height / Cos(degrees);
        var expected = 100 / (4 * Math.PI * far * far) * Cos(degrees) * part * 0.5 / Math.PI;
        Assert.Equal(expected, Mean(Dark([Floor, Camera(0.2), lamp], Matt("matt", 0.5)), samples: 64), expected * 0.03 + 1e-6);
    }

    /// <summary>Chromaticities of black bodies: CIE illuminant A (2856 K), and the Planckian locus as tables of colour science print it.</summary>
    [Theory]
    [InlineData(2000, 0.5267, 0.4133)]
    [InlineData(2856, 0.4476, 0.4074)]
    [InlineData(5000, 0.3451, 0.3516)]
    [InlineData(6500, 0.3135, 0.3237)]
    [InlineData(10000, 0.2807, 0.2884)]
    public void A_temperature_has_the_colour_of_its_black_body(double kelvin, double x, double y)
    {
        var found = Core.Numerics.BlackBody.Chromaticity(kelvin);
        Assert.Equal(x, found.X, 0.002);
        Assert.Equal(y, found.Y, 0.002);
        var rgb = Core.Numerics.BlackBody.Linear(kelvin);
        Assert.Equal(1, 0.2126729 * rgb.X + 0.7151522 * rgb.Y + 0.0721750 * rgb.Z, 6);
    }

    [Fact]
    public void A_lamp_of_another_temperature_gives_as_much_light_of_another_colour()
    {
        Vector3 Of(double kelvin) => Radiance(Dark(
            [
                Floor, Camera(0.2),
                new LampNode { Id = "l", Name = "L", Channels = Channels([.. Place(0, 2, 0), ("light.kelvin", kelvin)]) },
            ], Matt("matt", 0.5)), 3, Quality.Final, 16)[4];
        float Luminance(Vector3 c) => 0.2126729f * c.X + 0.7151522f * c.Y + 0.0721750f * c.Z;
        Assert.Equal(1, Luminance(Of(2700)) / Luminance(Of(0)), 0.001);
        Assert.True(Of(2700).X > 3 * Of(2700).Z && Of(12_000).Z > Of(12_000).X);
    }

    [Theory]
    [InlineData(Quality.Preview)]
    [InlineData(Quality.Final)]
    public void A_glowing_panel_lights_as_its_view_factor_has_it(Quality quality)
    {
        const double width = 6, depth = 2, height = 1.5;
        // Nearly black but for its glow, so that no light goes to and fro.
        var panel = new MeshNode { Id = "panel", Name = "Panel", Shape = new PlaneShape(width, depth), Material = "glow", Channels = Channels(Place(0, height, 0)) };
        double Corner(double a, double b) => (a / Math.Sqrt(1 + a * a) * Math.Atan(b / Math.Sqrt(1 + a * a)) + b / Math.Sqrt(1 + b * b) * Math.Atan(a / Math.Sqrt(1 + b * b))) / (2 * Math.PI);
        var expected = 0.5 * 50 * 4 * Corner(width / 2 / height, depth / 2 / height);
        Assert.Equal(1, Mean(Dark([Floor, Camera(1), panel], Matt("matt", 0.5), Matt("glow", 0.001, ("look.emission", 50_000))), quality) / expected, 0.03);
    }

    [Theory]
    [InlineData(Quality.Draft)]
    [InlineData(Quality.Preview)]
    [InlineData(Quality.Final)]
    public void Sixteen_times_the_light_at_four_stops_less_is_the_same_picture(Quality quality)
    {
        byte[] Picture(double light, double stops)
        {
            var shot = Dark(
                [
                    Floor,
                    new MeshNode { Id = "panel", Name = "Panel", Shape = new BoxShape(1, 0.2, 1), Material = "glow", Channels = Channels(Place(0.4, 0.5, 0)) },
                    new MeshNode { Id = "ball", Name = "Ball", Shape = new SphereShape(0.3, 24, 12), Material = "metal", Channels = Channels(Place(-0.4, 0.3, 0)) },
                    new LampNode { Id = "l", Name = "L", Channels = Channels([.. Place(-0.5, 0.9, 0.3), ("light.strength", 60 * light), ("light.radius", 0.05)]) },
                    new SunNode { Id = "s", Name = "S", Channels = Channels(("transform.rotate.x", -50), ("light.strength", 2 * light), ("light.angle", 4)) },
                    Camera(4) with { Channels = Channels([.. Place(0, 4, 0), ("transform.rotate.x", -90), ("camera.fov", 40)]) },
                ],
                Matt("matt", 0.5), Matt("glow", 0.8, ("look.emission", 3 * light)), Matt("metal", 0.9, ("look.metallic", 1), ("look.roughness", 0.2)));
            shot = shot with { World = Channels(("sky.strength", 0.5 * light), ("exposure", stops)) };
            return new FrameRenderer(shot).Render(0, new(24, 24), quality, samples: 8).Rgba;
        }
        Assert.Equal(Picture(1, 0), Picture(16, -4));
    }

    [Theory]
    [InlineData(0.01, 1)]
    [InlineData(0.5, 1)]
    [InlineData(0.5, 1000)]
    [InlineData(0.5, 0.01)]
    public void A_pane_lets_through_what_it_does_not_hold_back_at_any_size(double opacity, double size)
    {
        var pane = new MeshNode
        {
            Id = "pane",
            Name = "Pane",
            Shape = new PlaneShape(9, 9),
            Material = "pane",
            Channels = Channels([.. Place(0, 2 * size, 0), ("transform.scale.x", size), ("transform.scale.y", size), ("transform.scale.z", size)]),
        };
        var floor = Floor with { Material = "glow", Channels = Channels(("transform.scale.x", size), ("transform.scale.y", size), ("transform.scale.z", size)) };
        var shot = Dark([floor, Camera(6 * size), pane], Matt("glow", 0.001, ("look.emission", 9500)), Matt("pane", 0, ("look.opacity", opacity)));
        Assert.Equal(9.5 * (1 - opacity), Mean(shot, samples: 1024), 0.25);
        // And the way to a light leads through it as much.
        var lamp = new LampNode { Id = "l", Name = "L", Channels = Channels([.. Place(0, 4 * size, 0), ("light.strength", 100 * size * size), ("light.radius", size)]) };
        var under = Dark([floor with { Material = "matt" }, Camera(1.5 * size), pane, lamp], Matt("matt", 0.5), Matt("pane", 0, ("look.opacity", opacity)));
        Assert.Equal(1 - opacity, Mean(under) / (100 / (4 * Math.PI * 16) * 0.5 / Math.PI), 0.03);
    }

    [Fact]
    public void A_ball_of_six_kilometres_is_ground_to_stand_on()
    {
        var shot = Dark(
            [
                new MeshNode { Id = "p", Name = "P", Shape = new SphereShape(6000, 96, 48), Material = "matt", Channels = Channels(Place(0, -6000, 0)) },
                new SunNode { Id = "s", Name = "S", Channels = Channels(("transform.rotate.x", -50), ("light.strength", 2), ("light.angle", 0)) },
                Camera(3) with { Channels = Channels([.. Place(0, 3, 0), ("transform.rotate.x", -90), ("camera.fov", 60)]) },
            ],
            Matt("matt", 0.5));
        var expected = 2 * Math.Sin(50 * Math.PI / 180) * 0.5 / Math.PI;
        Assert.All(Radiance(shot, 16, Quality.Final, 16), r => Assert.Equal(1, r.X / expected, 0.03));
    }

    [Fact]
    public void A_lamp_in_smooth_metal_is_no_matter_of_chance()
    {
        var shot = Dark(
            [
                Floor with { Material = "metal" },
                new LampNode { Id = "l", Name = "L", Channels = Channels([.. Place(0, 2, 0), ("light.strength", 100), ("light.radius", 0.3)]) },
                Camera(3) with { Channels = Channels([.. Place(0, 3, 0), ("transform.rotate.x", -90), ("camera.fov", 40)]) },
            ],
            Matt("metal", 0.9, ("look.metallic", 1), ("look.roughness", 0.1)));
        var (few, many) = (Radiance(shot, 24, Quality.Final, 96), Radiance(shot, 24, Quality.Final, 2048));
        var error = Math.Sqrt(few.Zip(many).Average(p => Math.Pow(p.First.X - p.Second.X, 2))) / many.Average(r => r.X);
        Assert.InRange(error, 0, 0.2);
    }

    [Fact]
    public void The_noise_of_a_film_does_not_stand_still()
    {
        var shot = Dark([Floor, Camera(1) with { Channels = Channels([.. Place(0, 1, 0), ("transform.rotate.x", -90)]) }], Matt("matt", 0.5));
        shot = shot with { World = Channels(("sky.strength", 1)), Nodes = shot.Nodes.Add(new LampNode { Id = "l", Name = "L", Channels = Channels([.. Place(0, 0.5, 0), ("light.radius", 0.2)]) }) };
        Assert.NotEqual(Radiance(shot, 8, Quality.Final, 2, 0), Radiance(shot, 8, Quality.Final, 2, 1));
        Assert.Equal(Radiance(shot, 8, Quality.Final, 2, 1), Radiance(shot, 8, Quality.Final, 2, 1));
    }
}
