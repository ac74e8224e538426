using System.Numerics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;

namespace Bradymotus.Core.Checks;

/// <summary>Two meshes, and what is known of them frame by frame.</summary>
/// <param name="a">The smaller, which rests on the other.</param>
/// <param name="b">The other.</param>
/// <param name="size">How large the first is, in metres; see <see cref="Follower.Size"/>.</param>
/// <param name="frames">How many frames there are.</param>
/// <param name="tolerance">What goes no deeper than this, in metres, only touches.</param>
/// <param name="areLoose">One moves against the other as a whole, or walks on it: whether they touch is of interest, and whether they slide.</param>
internal sealed class ContactPair(Body a, Body b, double size, int frames, float tolerance, bool areLoose)
{
    internal Body A => a;

    internal Body B => b;

    internal double Size => size;

    internal float Tolerance => tolerance;

    internal bool AreLoose => areLoose;

    /// <summary>How deep they are in each other, in metres; 0 where they are not, not a number where one of them is not seen.</summary>
    internal float[] Depths { get; } = new float[frames];

    /// <summary>How deep they were in each other between the frame before and this one, and when; 0 where nothing is to be looked at.</summary>
    internal (float Depth, float Frame)[] Between { get; } = new (float, float)[frames];

    internal bool[] Touching { get; } = new bool[frames];

    /// <summary>Which way the surface faces where they touch; 0 where that is not known.</summary>
    internal Vector3[] Normals { get; } = new Vector3[frames];

    /// <summary>How far the one has slid on the other since the frame before, in metres, and which way in the world.</summary>
    internal Vector3[] Slides { get; } = new Vector3[frames];

    /// <summary>A point of one surface that touched the other on the frame before.</summary>
    internal struct Mark
    {
        internal bool IsSet;
        internal int Pass;
        // A triangle of each where they were nearest.
        internal (int A, int B)? Nearest;
        internal int Triangle;
        internal Double3 Share;
        internal Double3 At;
        internal Double3 Centre;
        internal Double3 Normal;
    }

    /// <summary>Works out how deep the two are in each other on the evaluated frame, whether they touch, and how far the one has slid.</summary>
    /// <param name="near">What is nearer than this touches, in metres.</param>
    /// <param name="before">What is known of the frame before.</param>
    /// <param name="give">Takes what there is to know for the next one.</param>
    internal static IEnumerable<bool> Compare(FrameState state, int frame, ContactPair pair, Follower a, Follower b, double near, Mark before, Action<Mark> give)
    {
        if (frame > 0 && before.Pass > 0 && a.Body.ChangedIn(state) <= before.Pass && b.Body.ChangedIn(state) <= before.Pass)
        {
            // As on the frame before.
            (pair.Depths[frame], pair.Touching[frame], pair.Normals[frame]) = (pair.Depths[frame - 1], pair.Touching[frame - 1], pair.Normals[frame - 1]);
            yield break;
        }
        PlacedMesh? ma = null, mb = null;
        PlacedMesh.NearestPoints? nearest = null;
        if (pair.Depths[frame] == 0 && !pair.AreLoose)
        {
            pair.Touching[frame] = false;
            give(new() { Pass = state.Pass });
            yield break;
        }
        foreach (var _ in a.Place(state, m => ma = m).Concat(b.Place(state, m => mb = m)))
        {
            yield return true;
        }
        if (pair.Depths[frame] > 0 || Penetration.Overlap(a.At(frame), b.At(frame), pair.Tolerance))
        {
            foreach (var _ in Penetration.Find(ma!, mb!, pair.Depths[frame] > 0, pair.Tolerance, (d, w) => (pair.Depths[frame], pair.Normals[frame]) = ((float)d, ToVector(w))))
            {
                yield return true;
            }
        }
        if (!(pair.Depths[frame] > pair.Tolerance) && pair.AreLoose)
        {
            foreach (var _ in PlacedMesh.Nearest(ma!, mb!, near, before.Nearest, n => nearest = n))
            {
                yield return true;
            }
        }
        pair.Touching[frame] = pair.Depths[frame] > pair.Tolerance || nearest is not null;
        (int A, int B)? seed = nearest is { } n ? (n.TriangleA, n.TriangleB) : null;
        give(new() { Pass = state.Pass, Nearest = seed });
        if (nearest is { } at && b.Body.On(state)!.Value.World.TryInvert(out var toB))
        {
            Slide(state, frame, pair, a, b, (ma!, mb!), at, toB, before, give);
        }
    }

    private static void Slide(FrameState state, int frame, ContactPair pair, Follower a, Follower b, (PlacedMesh A, PlacedMesh B) placed,
        PlacedMesh.NearestPoints at, Affine toB, Mark before, Action<Mark> give)
    {
        var middle = toB.Point((a.At(frame).Min + a.At(frame).Max) * 0.5);
        var normal = placed.B.Normal(at.TriangleB);
        pair.Normals[frame] = ToVector(normal);
        if (before.IsSet)
        {
            // The same point of the surface, where it is now, as seen from what it rests on.
            var (p, q, r) = placed.A.Corners(before.Triangle);
            var now = p * before.Share.X + q * before.Share.Y + r * before.Share.Z;
            var world = b.Body.On(state)!.Value.World;
            var slid = Along(world.Vector(toB.Point(now) - before.At), before.Normal);
            var moved = Along(world.Vector(middle - before.Centre), before.Normal);
            // What rolls does not slide, nor does what turns on the spot.
            if (slid.Length > 0.4 * moved.Length && moved.Length > 0.25 * slid.Length)
            {
                pair.Slides[frame] = ToVector(slid);
            }
        }
        // It rests only on what carries it.
        if (normal.Y > 0.5)
        {
            give(new()
            {
                Pass = state.Pass,
                Nearest = (at.TriangleA, at.TriangleB),
                IsSet = true,
                Triangle = at.TriangleA,
                Share = Share(at.OnA, placed.A.Corners(at.TriangleA)),
                At = toB.Point(at.OnA),
                Centre = middle,
                Normal = normal
            });
        }
    }

    private static Vector3 ToVector(Double3 v) => new((float)v.X, (float)v.Y, (float)v.Z);

    private static Double3 Along(Double3 way, Double3 normal) => way - normal * Double3.Dot(way, normal);

    /// <summary>How a point of a triangle is made of its corners.</summary>
    private static Double3 Share(Double3 p, (Double3 A, Double3 B, Double3 C) t)
    {
        var normal = Double3.Cross(t.B - t.A, t.C - t.A);
        var square = Double3.Dot(normal, normal);
        if (square <= 0)
        {
            return Double3.UnitX;
        }
        var b = Double3.Dot(Double3.Cross(p - t.A, t.C - t.A), normal) / square;
        var c = Double3.Dot(Double3.Cross(t.B - t.A, p - t.A), normal) / square;
        return new(1 - b - c, b, c);
    }
}
