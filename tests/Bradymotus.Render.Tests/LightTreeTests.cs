using System.Numerics;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Render.Light;
using static Bradymotus.Render.Tests.Scenes;

namespace Bradymotus.Render.Tests;

/// <summary>Choosing among many lights, and what light goes through.</summary>
public class LightTreeTests
{
    private static Vector3 Some(Random dice, float reach) => new(((float)dice.NextDouble() - 0.5f) * reach, ((float)dice.NextDouble() - 0.5f) * reach, ((float)dice.NextDouble() - 0.5f) * reach);

    private static Vector3 Way(Random dice) => Vector3.Normalize(Some(dice, 2) + new Vector3(1e-3f));

    private static Lamp SomeLamp(Random dice) => dice.Next(3) switch
    {
        0 => new BallLamp(Some(dice, 20), 0.01f + (float)dice.NextDouble(), new((float)dice.NextDouble() * 50)),
        1 => new BallLamp(Some(dice, 20), 0.05f, new((float)dice.NextDouble() * 50), Way(dice), 0.4f, 0.8f),
        _ => Panel(dice),
    };

    private static PanelLamp Panel(Random dice)
    {
        var facing = Way(dice);
        var right = Vector3.Normalize(Vector3.Cross(facing, Way(dice)));
        return new(Some(dice, 20), right * (float)dice.NextDouble(), Vector3.Cross(facing, right) * 0.4f, facing, dice.Next(2) == 0, new((float)dice.NextDouble() * 50));
    }

    [Fact]
    public void Each_light_is_chosen_with_the_chance_that_is_said_and_none_that_lights_the_place_with_chance_0() => Laws.ForSeeds((dice, _) =>
    {
        var lamps = Enumerable.Range(0, dice.Next(1, 60)).Select(_ => SomeLamp(dice)).ToList();
        // Some in one place, as copies of a row may be.
        lamps.AddRange(Enumerable.Range(0, dice.Next(3)).Select(_ => lamps[0]));
        var tree = new LightTree([.. lamps.Select(l => l.Bounds)], lamps.Count);
        var (at, normal) = (Some(dice, 24), Way(dice));
        var chances = Enumerable.Range(0, lamps.Count).Select(i => tree.Chance(i, at, normal)).ToList();
        Assert.InRange(chances.Sum(), -1e-3, 1 + 1e-3);
        const int many = 4000;
        var chosen = new double[lamps.Count];
        for (var i = 0; i < many; i++)
        {
            var light = tree.Choose((i + 0.5f) / many, at, normal, out var chance);
            if (light >= 0)
            {
                Assert.Equal(chances[light], chance, 1e-3f * chance);
                chosen[light]++;
            }
        }
        for (var i = 0; i < lamps.Count; i++)
        {
            Assert.Equal(chances[i], chosen[i] / many, 2e-2);
            for (var k = 0; k < 8; k++)
            {
                var density = lamps[i].Sample(at, new((float)dice.NextDouble(), (float)dice.NextDouble()), out var direction, out var away);
                if (density > 0 && away > 0 && lamps[i].Radiance(at) != Vector3.Zero && Vector3.Dot(direction, normal) > 0.01f)
                {
                    Assert.True(chances[i] > 0, $"Lamp {i} lights the place and is never chosen.");
                }
            }
        }
    }, 300);

    [Fact]
    public void A_ray_meets_the_lamps_that_one_after_the_other_says() => Laws.ForSeeds((dice, _) =>
    {
        var lamps = Enumerable.Range(0, dice.Next(1, 80)).Select(_ => SomeLamp(dice)).ToList();
        var tree = new LightTree([.. lamps.Select(l => l.Bounds)], lamps.Count);
        Span<int> rest = stackalloc int[LightTree.MostDepth];
        for (var n = 0; n < 50; n++)
        {
            var (from, way, far) = (Some(dice, 24), Way(dice), dice.Next(2) == 0 ? float.PositiveInfinity : (float)dice.NextDouble() * 20);
            var found = new HashSet<int>();
            for (var walk = tree.Along(from, way, far, rest); walk.Next(out var light);)
            {
                Assert.True(found.Add(light));
            }
            for (var i = 0; i < lamps.Count; i++)
            {
                Assert.True(lamps[i].Distance(from, way) >= far || found.Contains(i), $"Lamp {i} is met and not found.");
            }
        }
    }, 200);

    [Fact]
    public void The_best_of_many_lamps_is_chosen_most()
    {
        var tree = new LightTree([.. Enumerable.Range(0, 100).Select(i => new BallLamp(new(i, 2, 0), 0.1f, Vector3.One).Bounds)], 100);
        var chances = Enumerable.Range(0, 100).Select(i => tree.Chance(i, new(70, 0, 0), Vector3.UnitY)).ToList();
        Assert.Equal(70, chances.IndexOf(chances.Max()));
        Assert.True(chances.Max() > 0.08 && chances[5] < 0.002);
    }

    /// <summary>A floor under a lamp, and clear sheets between the two; a wall behind them keeps all light away.</summary>
    private static Shot Sheets(int many, bool wall, double opacity, double glass = 0) => Shot.Empty("Sheets") with
    {
        Nodes =
        [
            new MeshNode { Id = "p", Name = "P", Shape = new PlaneShape(20, 20), Material = "m" },
            new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.x", 3), ("transform.translate.y", 0.5), ("transform.rotate.z", 0), ("transform.rotate.y", 90), ("transform.rotate.x", -9.5), ("camera.fov", 1)) },
            new LampNode { Id = "l", Name = "L", Channels = Channels(("transform.translate.y", 6), ("light.strength", 500), ("light.radius", 0.05)) },
            .. Enumerable.Range(0, many).Select(i => (Node)new MeshNode { Id = $"s{i}", Name = $"S{i}", Shape = new PlaneShape(2, 2), Material = "clear", Channels = Channels(("transform.translate.y", 1 + i * 0.02)) }),
            .. wall ? new Node[] { new MeshNode { Id = "w", Name = "W", Shape = new PlaneShape(30, 30), Material = "m", Channels = Channels(("transform.translate.y", 5)) } } : [],
        ],
        Materials =
        [
            Matt("m", 0.5),
            // Black, so that what they hold back goes nowhere.
            Matt("clear", glass, ("look.opacity", opacity), ("look.glass", glass), ("look.thin", glass), ("look.ior", 1.0001), ("look.roughness", 0.05)),
        ],
        World = Channels(("sky.strength", 0)),
    };

    [Theory]
    [InlineData(15)]
    [InlineData(16)]
    [InlineData(17)]
    [InlineData(40)]
    [InlineData(150)]
    public void However_many_clear_sheets_let_through_what_they_let_through_and_no_wall_behind_them(int sheets)
    {
        foreach (var quality in new[] { Quality.Preview, Quality.Final })
        {
            float Middle(Shot shot) => Radiance(shot, 3, quality, 16)[4].X;
            Assert.Equal(0, Middle(Sheets(sheets, wall: true, 0.01)));
            var free = Middle(Sheets(0, wall: false, 0.01));
            Assert.True(free > 0);
            // Each lets 99 of 100 through.
            Assert.Equal(Math.Pow(0.99, sheets), Middle(Sheets(sheets, wall: false, 0.01)) / free, 0.06 * Math.Pow(0.99, sheets) + 0.005);
        }
    }

    [Theory]
    [InlineData(20)]
    [InlineData(70)]
    public void A_floor_seen_through_many_sheets_of_glass_is_not_black(int sheets)
    {
        Shot Seen(int many)
        {
            var shot = Sheets(many, wall: false, 1, glass: 1);
            return shot with
            {
                Nodes = shot.Nodes.Replace(shot.Node("c"), new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.y", 4.5), ("transform.rotate.x", -90), ("camera.fov", 1)) }),
            };
        }
        float Middle(Shot shot, Quality quality) => Radiance(shot, 3, quality, 16)[4].X;
        foreach (var quality in new[] { Quality.Preview, Quality.Final })
        {
            Assert.InRange(Middle(Seen(sheets), quality) / Middle(Seen(0), quality), 0.9, 1.02);
        }
    }

    /// <summary>A sphere of few triangles with smooth normals, lit from the side: its shade falls evenly, with no triangle darker than its neighbours.</summary>
    [Fact]
    public void The_shadow_on_a_coarse_smooth_ball_has_no_stairs()
    {
        Shot Ball(int around, int along) => Shot.Empty("Ball") with
        {
            Nodes =
            [
                new MeshNode { Id = "b", Name = "B", Shape = new SphereShape(1, around, along), Material = "m" },
                new CameraNode { Id = "c", Name = "C", Channels = Channels(("transform.translate.z", 6), ("camera.fov", 17)) },
                new SunNode { Id = "s", Name = "S", Channels = Channels(("transform.rotate.y", 80), ("light.strength", 3), ("light.angle", 0.1)) },
            ],
            Materials = [Matt("m", 0.8, ("look.ior", 1))],
            World = Channels(("sky.strength", 0)),
        };
        var (coarse, fine) = (Radiance(Ball(24, 12), 96, Quality.Final, 16), Radiance(Ball(240, 120), 96, Quality.Final, 16));
        // Where the fine ball is in its half shade, the coarse one is about as bright: dark triangles would be off by all of it.
        double most = 0;
        for (var y = 20; y < 76; y++)
        {
            for (var x = 20; x < 76; x++)
            {
                most = Math.Max(most, Math.Abs(coarse[y * 96 + x].X - fine[y * 96 + x].X));
            }
        }
        Assert.True(most < 0.05, $"A pixel is off by {most:0.000}.");
    }
}
