using System.Collections.Immutable;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Server.Api;

/// <summary>What a new shot holds: light, ground and a camera, so that the first object can be seen and rendered.</summary>
public static class StarterShot
{
    public static Shot Make(string name)
    {
        static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
            ImmutableSortedDictionary.CreateRange(values.Select(v => KeyValuePair.Create(v.Path, new Channel(v.Value))));
        return Shot.Empty(name) with
        {
            World = Channels(("sky.strength", 0.6)),
            Nodes =
            [
                new CameraNode
                {
                    Id = "camera", Name = "Camera",
                    Channels = Channels(("transform.translate.x", 0), ("transform.translate.y", 1.9), ("transform.translate.z", 7), ("transform.rotate.x", -10), ("camera.fov", 35)),
                },
                new SunNode { Id = "sun", Name = "Sun", Channels = Channels(("transform.rotate.x", -50), ("transform.rotate.y", 35), ("light.strength", 1.7)) },
                new MeshNode { Id = "ground", Name = "Ground", Shape = new PlaneShape(30, 30), Material = "ground-look", Locked = true },
            ],
            Materials = [new("ground-look", "Ground", Channels(("look.color.r", 0.42), ("look.color.g", 0.44), ("look.color.b", 0.42), ("look.roughness", 0.9)))],
        };
    }
}
