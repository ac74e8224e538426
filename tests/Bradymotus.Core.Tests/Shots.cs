using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Tests;

/// <summary>Small shots to try things on.</summary>
internal static class Shots
{
    internal static ImmutableSortedDictionary<string, Channel> Channels(params (string Path, double Value)[] values) =>
        ImmutableSortedDictionary.CreateRange(values.Select(v => KeyValuePair.Create(v.Path, new Channel(v.Value))));

    internal static Shot Crane() => Shot.Empty("Crane") with
    {
        Nodes =
        [
            new MeshNode { Id = "hook", Name = "Hook", Parent = "arm", Shape = new SphereShape(0.2, 8, 6), Material = "steel", Channels = Channels(("transform.translate.x", 2)) },
            new GroupNode { Id = "base", Name = "Base", Channels = Channels(("transform.translate.y", 1)) },
            new GroupNode { Id = "arm", Name = "Arm", Parent = "base", Channels = Channels(("transform.rotate.z", 90)) },
        ],
        Materials = [new("steel", "Steel")],
    };

    internal static ChannelAddress At(string text) => ChannelAddress.Parse(text);

    internal static Shot Keyed(this Shot shot, string address, params (double Frame, double Value)[] keys) =>
        shot.With(At(address), new Channel(0, new Curve([.. keys.Select(k => new Key(k.Frame, k.Value))])));

    /// <summary>A fall, and hops of so many frames that are so high; parabolas, as cubic Bézier segments can have them exactly.</summary>
    internal static List<Key> Flight(double floor, double fall, double fallFrames, params (double Height, double Frames)[] hops)
    {
        var keys = new List<Key> { new(0, floor + fall, null, null, new FreeHandle(fallFrames / 3, 0)) };
        var arrives = new FreeHandle(-fallFrames / 3, 2 * fall / 3);
        var at = fallFrames;
        foreach (var (height, frames) in hops)
        {
            var third = frames / 6;
            keys.Add(new Key(at, floor, null, arrives, new FreeHandle(third, 2 * height / 3), false));
            keys.Add(new Key(at + frames / 2, floor + height, null, new FreeHandle(-third, 0), new FreeHandle(third, 0)));
            arrives = new FreeHandle(-third, 2 * height / 3);
            at += frames;
        }
        keys.Add(new Key(at, floor, null, arrives, null, false));
        return keys;
    }
}
