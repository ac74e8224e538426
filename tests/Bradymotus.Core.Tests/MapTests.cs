using System.Numerics;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Serialization;

namespace Bradymotus.Core.Tests;

/// <summary>What is laid onto surfaces: channels, edits, projections, patterns.</summary>
public sealed class MapTests
{
    private static readonly string Sha = new('a', 64);

    private static Shot Painted(params SurfaceMap[] maps) => Shot.Empty("Painted") with { Materials = [new Material("paint", "Paint") { Maps = [.. maps] }] };

    [Fact]
    public void The_numbers_of_a_map_are_channels_that_can_be_keyed()
    {
        var shot = Painted(new SurfaceMap(MapSlot.Color, new BricksPattern(), MapProjection.Box)).Keyed("paint/map.color.offset.x", (0, 0), (10, 5)).Keyed("paint/map.color.mortar", (0, 0), (10, 0.2));
        ShotRules.Validate(shot);
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(5);
        Assert.InRange(state.Value(new("paint", "map.color.offset.x")), 2, 3);
        Assert.InRange(state.Value(new("paint", "map.color.mortar")), 0.05, 0.15);
        Assert.Equal(2.5, state.Value(new("paint", "map.color.ratio")));
        Assert.Equal(0.42, state.Value(new("paint", "map.color.first.r")));
        Assert.Equal(ShotJson.Write(shot), ShotJson.Write(ShotJson.ReadShot(ShotJson.Write(shot))));
    }

    [Fact]
    public void Other_maps_take_the_channels_of_the_old_ones_away_and_keep_the_others()
    {
        var shot = Painted(new SurfaceMap(MapSlot.Color, new WoodPattern()), new SurfaceMap(MapSlot.Bump, new NoisePattern()))
            .Keyed("paint/map.color.rings", (0, 3)).Keyed("paint/map.bump.strength", (0, 1)).Keyed("paint/look.roughness", (0, 1)).Keyed("paint/map.color.scale.x", (0, 2));
        // The same slot with another pattern: where it lies stays, how many rings it had does not.
        var after = new SetMaps("paint", [new(MapSlot.Color, new ChecksPattern())]).Apply(shot);
        Assert.Equal(["look.roughness", "map.color.scale.x"], after.Materials[0].Channels!.Keys);
        Assert.Equal(after.Materials[0].Maps, new AddMaterial(new("copy", "Copy"), "paint").Apply(after).Material("copy").Maps);
    }

    [Theory]
    [InlineData(MapSlot.Color, MapSlot.Color, "two maps")]
    [InlineData(MapSlot.Normal, MapSlot.Color, "use a pattern as bump")]
    public void Maps_that_make_no_sense_are_refused(MapSlot one, MapSlot other, string part)
    {
        var refusal = Assert.Throws<Refusal>(() => new SetMaps("paint", [new(one, new WoodPattern()), new(other, new WoodPattern())]).Apply(Painted()));
        Assert.Contains(part, refusal.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("../etc/passwd", 4, 4)]
    [InlineData("", 4, 4)]
    [InlineData(null, 0, 4)]
    [InlineData(null, 16_384, 16_384)]
    [InlineData(null, int.MaxValue, 2)]
    public void Pictures_that_cannot_be_are_refused(string? asset, int width, int height) =>
        Assert.Throws<Refusal>(() => new SetMaps("paint", [new(MapSlot.Color, new PictureSource(asset ?? Sha, "p.png", width, height))]).Apply(Painted()));

    [Fact]
    public void The_colour_of_a_glow_is_that_of_the_surface_until_it_has_one()
    {
        var shot = Painted().Keyed("paint/look.color.r", (0, 0), (10, 1));
        var state = new FrameState(new CompiledShot(shot));
        state.Evaluate(10);
        Assert.Equal(1, state.Value(new("paint", "look.emissionColor.r")));
        Assert.Equal(0.8, state.Value(new("paint", "look.emissionColor.g")));
        shot = new SetValues([new(new("paint", "look.emissionColor.r"), 0.25)]).Apply(shot);
        state.Show(new CompiledShot(shot, state.Compiled));
        state.Evaluate(10);
        Assert.Equal(0.25, state.Value(new("paint", "look.emissionColor.r")));
    }

    [Fact]
    public void Projections_put_a_point_where_they_say()
    {
        static Vector3 At(MapProjection projection, Vector3 point, Vector3 normal) => Projecting.Place(projection, point, Projecting.SideOf(normal), new(0.3f, 0.6f));
        Assert.Equal(new(0.3f, 0.6f, 0), At(MapProjection.Coordinates, Vector3.One, Vector3.UnitX));
        Assert.Equal(new(1, 2, 3), At(MapProjection.Solid, new(1, 2, 3), Vector3.UnitX));
        // From the front: right is right, up is up, and v runs downwards.
        Assert.Equal(new(0.75f, 0.25f, 0), At(MapProjection.Planar, new(0.25f, 0.25f, 9), Vector3.UnitZ));
        // From every side a picture stands upright for who looks at that side: to the right of the eye u grows, up v falls.
        foreach (var (normal, right) in new[] { (Vector3.UnitX, -Vector3.UnitZ), (-Vector3.UnitX, Vector3.UnitZ), (Vector3.UnitZ, Vector3.UnitX), (-Vector3.UnitZ, -Vector3.UnitX) })
        {
            Assert.Equal(Vector3.Cross(Vector3.UnitY, normal), right);
            var middle = At(MapProjection.Box, normal, normal);
            Assert.Equal(0.25f, (At(MapProjection.Box, normal + right * 0.25f, normal) - middle).X, 5);
            Assert.Equal(-0.25f, (At(MapProjection.Box, normal + Vector3.UnitY * 0.25f, normal) - middle).Y, 5);
        }
        // Once round, and from pole to pole.
        Assert.Equal(0.5f, At(MapProjection.Spherical, Vector3.UnitZ, Vector3.UnitZ).X, 5);
        Assert.Equal(0.75f, At(MapProjection.Cylindrical, Vector3.UnitX, Vector3.UnitX).X, 5);
        Assert.Equal(0, At(MapProjection.Spherical, Vector3.UnitY, Vector3.UnitY).Y, 5);
        Assert.Equal(1, At(MapProjection.Spherical, -Vector3.UnitY, Vector3.UnitY).Y, 5);
    }

    [Fact]
    public void Patterns_are_the_same_everywhere_and_stay_within_their_bounds() => Laws.ForSeeds((dice, _) =>
    {
        foreach (var pattern in new Pattern[] { new WoodPattern(), new ChecksPattern(), new BricksPattern(), new NoisePattern() })
        {
            var numbers = pattern.Names.Select(_ => (float)(dice.NextDouble() * 4)).ToArray();
            float Far() => (float)((dice.NextDouble() - 0.5) * (dice.Next(5) == 0 ? 1e9 : 20));
            var p = new Vector3(Far(), Far(), Far());
            var (second, shade) = pattern.At(p, numbers);
            Assert.InRange(second, 0, 1);
            Assert.InRange(shade, -4, 4);
            Assert.Equal((second, shade), pattern.At(p, numbers));
        }
    }, 300);

    /// <summary>Gradient noise is 0 at whole points, goes on without a step over their planes, and is neither light nor dark on the whole.</summary>
    [Fact]
    public void Noise_is_smooth_and_even()
    {
        Assert.Equal(0, Noise.At(new(3, -7, 12), 5));
        var (sum, most, worst) = (0.0, 0.0, 0.0);
        var dice = new Random(4);
        for (var i = 0; i < 20_000; i++)
        {
            var p = new Vector3((float)dice.NextDouble() * 40 - 20, (float)dice.NextDouble() * 40 - 20, (float)dice.NextDouble() * 40 - 20);
            var n = Noise.At(p, 1);
            sum += n;
            most = Math.Max(most, Math.Abs(n));
            var q = p with { X = MathF.Round(p.X) };
            worst = Math.Max(worst, Math.Abs(Noise.At(q with { X = q.X - 1e-4f }, 1) - Noise.At(q with { X = q.X + 1e-4f }, 1)));
        }
        Assert.InRange(sum / 20_000, -0.01, 0.01);
        Assert.InRange(most, 0.5, 1.1);
        Assert.InRange(worst, 0, 0.001);
    }
}
