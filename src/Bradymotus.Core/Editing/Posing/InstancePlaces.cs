using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Editing;

/// <summary>Where instances stand that are put on, above or beside objects, as their children: they then go wherever these go.</summary>
public static class InstancePlaces
{
    /// <summary>The place of an instance on each of some objects, in the space of that object, as large in the world as what it is an instance of.</summary>
    /// <param name="of">What the instances are of.</param>
    /// <param name="on">The objects that they hang below.</param>
    /// <param name="where">
    /// <c>on</c> stands in the middle of the upper side of the box round the object; <c>above</c> leaves its own height free below; <c>beside</c> stands at
    /// the side of higher x, as low as the object. What has no shape counts as the point where it stands.
    /// </param>
    /// <exception cref="Refusal">Something is scaled to nothing, or the word is none of these.</exception>
    public static IReadOnlyList<InstancePlace> Find(FrameState state, string of, IReadOnlyList<string> on, string where)
    {
        if (where is not ("on" or "above" or "beside"))
        {
            throw new Refusal($"“{where}” is no place for instances: use on, above or beside.");
        }
        var own = WorldOf(state, of);
        var box = BoxOf(state, of, own);
        var places = new List<InstancePlace>();
        foreach (var id in on.Distinct())
        {
            var world = WorldOf(state, id);
            var below = BoxOf(state, id, world);
            var scale = new Double3(own.X.Length / world.X.Length, own.Y.Length / world.Y.Length, own.Z.Length / world.Z.Length);
            var middle = new Double3(below.Centre.X - box.Centre.X * scale.X, 0, below.Centre.Z - box.Centre.Z * scale.Z);
            var height = (box.Max.Y - box.Min.Y) * scale.Y;
            var at = where switch
            {
                "on" => middle with { Y = below.Max.Y - box.Min.Y * scale.Y },
                "above" => middle with { Y = below.Max.Y - box.Min.Y * scale.Y + height },
                _ => middle with { X = below.Max.X - box.Min.X * scale.X, Y = below.Min.Y - box.Min.Y * scale.Y },
            };
            places.Add(new(id, Clean(at.X), Clean(at.Y), Clean(at.Z), Clean(scale.X), Clean(scale.Y), Clean(scale.Z)));
        }
        return places;
    }

    /// <summary>Vertices are of single precision: what they give is rounded to where they are exact, for numbers that can be read.</summary>
    private static double Clean(double value) => Math.Round(value, 5);

    private static Affine WorldOf(FrameState state, string id)
    {
        var node = state.Compiled.Shot.Node(id);
        var world = state.World[state.Compiled.IndexOfNode(id)];
        return world.TryInvert(out _) ? world : throw new Refusal($"“{node.Name}” is scaled to nothing: give it a scale first.");
    }

    private static Bounds BoxOf(FrameState state, string id, in Affine world) =>
        world.TryInvert(out var toOwn) && Bounds.Of(state, [id], toOwn) is { } box ? box : new(Double3.Zero, Double3.Zero);
}

/// <summary>Where an instance stands below an object.</summary>
/// <param name="On">The object that it hangs below.</param>
/// <param name="X">Its position in the space of that object, as <paramref name="Y"/> and <paramref name="Z"/>.</param>
/// <param name="ScaleX">Its scale below that object, as <paramref name="ScaleY"/> and <paramref name="ScaleZ"/>.</param>
public sealed record InstancePlace(string On, double X, double Y, double Z, double ScaleX = 1, double ScaleY = 1, double ScaleZ = 1);
