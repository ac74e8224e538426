using System.Numerics;

namespace Bradymotus.Render.Light;

/// <summary>
/// Chooses one of many lights by about what each gives to a place, in a time that grows with the logarithm of their number.
/// </summary>
/// <remarks>
/// A tree of boxes and cones (A. Conty Estevez and C. Kulla, "Importance sampling of many lights with adaptive tree splitting", 2018). Nodes lie in one
/// array, the left child right after its parent; a light's leaf is known by its number, so that the chance of choosing it is found from below.
/// </remarks>
internal sealed class LightTree
{
    private const int Bins = 12;

    // So deep it is divided where that costs least, and by halves below: no walk needs more than so much room.
    private const int MostDivided = 32;
    internal const int MostDepth = 64;

    private readonly Node[] _nodes;
    private readonly int[] _leafOf;
    private int _count;

    private readonly record struct Node(LightBounds Bounds, int Parent, int Right, int Light, bool HoldsBodies);

    /// <param name="lights">All lights; one is known by its place in the list.</param>
    /// <param name="bodies">So many of the first are bodies in the air, which <see cref="Along"/> finds; the others are surfaces.</param>
    internal LightTree(IReadOnlyList<LightBounds> lights, int bodies)
    {
        _leafOf = new int[lights.Count];
        _nodes = new Node[Math.Max(0, 2 * lights.Count - 1)];
        if (lights.Count == 0)
        {
            return;
        }
        var order = new int[lights.Count];
        for (var i = 0; i < order.Length; i++)
        {
            order[i] = i;
        }
        Build(lights, bodies, order, -1, 0);
    }

    internal int Count => _leafOf.Length;

    /// <summary>A light, chosen by about what it gives to a place.</summary>
    /// <param name="choice">0 to 1.</param>
    /// <param name="at">The place.</param>
    /// <param name="normal">The way the surface there faces.</param>
    /// <param name="chance">The chance with which it was chosen.</param>
    /// <returns>Its number; −1 where none can give anything.</returns>
    internal int Choose(float choice, Vector3 at, Vector3 normal, out float chance)
    {
        chance = 1;
        for (var place = 0; ;)
        {
            ref readonly var node = ref _nodes[place];
            if (node.Light >= 0)
            {
                return node.Light;
            }
            var (left, right) = (_nodes[place + 1].Bounds.Importance(at, normal), _nodes[node.Right].Bounds.Importance(at, normal));
            if (left + right is not (> 0 and var both))
            {
                chance = 0;
                return -1;
            }
            var first = left / both;
            if (choice < first)
            {
                (place, choice, chance) = (place + 1, choice / first, chance * first);
            }
            else
            {
                (place, choice, chance) = (node.Right, MathF.Min(0.99999994f, (choice - first) / (1 - first)), chance * (right / both));
            }
        }
    }

    /// <summary>The chance with which <see cref="Choose"/> takes a light.</summary>
    internal float Chance(int light, Vector3 at, Vector3 normal)
    {
        var chance = 1f;
        for (var own = _leafOf[light]; _nodes[own].Parent is >= 0 and var parent; own = parent)
        {
            var (left, right) = (_nodes[parent + 1].Bounds.Importance(at, normal), _nodes[_nodes[parent].Right].Bounds.Importance(at, normal));
            if (left + right is not (> 0 and var both))
            {
                return 0;
            }
            chance *= (own == parent + 1 ? left : right) / both;
        }
        return chance;
    }

    /// <summary>The bodies whose boxes a ray meets before its end.</summary>
    /// <param name="origin">Where it begins.</param>
    /// <param name="direction">Where it goes.</param>
    /// <param name="far">Where it ends.</param>
    /// <param name="rest">Room for <see cref="MostDepth"/> numbers.</param>
    internal Walk Along(Vector3 origin, Vector3 direction, float far, Span<int> rest) => new(_nodes, origin, Vector3.One / direction, far, rest);

    /// <summary>Goes from one body to the next along a ray.</summary>
    internal ref struct Walk
    {
        private readonly Node[] _nodes;
        private readonly Vector3 _origin, _inverse;
        private readonly float _far;
        private readonly Span<int> _rest;
        private int _depth;

        internal Walk(Array nodes, Vector3 origin, Vector3 inverse, float far, Span<int> rest)
        {
            _nodes = (Node[])nodes;
            _rest = rest;
            (_origin, _inverse, _far) = (origin, inverse, far);
            if (_nodes.Length > 0)
            {
                _rest[_depth++] = 0;
            }
        }

        /// <summary>The next one; false where there is none.</summary>
        internal bool Next(out int light)
        {
            while (_depth > 0)
            {
                var at = _rest[--_depth];
                ref readonly var node = ref _nodes[at];
                if (!node.HoldsBodies || !IsMet(node.Bounds, _origin, _inverse, _far))
                {
                    continue;
                }
                if (node.Light >= 0)
                {
                    light = node.Light;
                    return true;
                }
                _rest[_depth++] = node.Right;
                _rest[_depth++] = at + 1;
            }
            light = -1;
            return false;
        }
    }

    private static bool IsMet(in LightBounds box, Vector3 origin, Vector3 inverse, float far)
    {
        // A panel's box may be flat: a little room, so that roundings do not miss it.
        var room = new Vector3(1e-4f * (1 + Most(box.Max - box.Min) + Most(box.Middle - origin)));
        var (a, b) = ((box.Min - room - origin) * inverse, (box.Max + room - origin) * inverse);
        var (near, end) = (Vector3.Min(a, b), Vector3.Max(a, b));
        return MathF.Max(0, MathF.Max(near.X, MathF.Max(near.Y, near.Z))) <= MathF.Min(far, MathF.Min(end.X, MathF.Min(end.Y, end.Z)));
    }

    private static float Most(Vector3 v) => MathF.Max(MathF.Abs(v.X), MathF.Max(MathF.Abs(v.Y), MathF.Abs(v.Z)));

    private int Build(IReadOnlyList<LightBounds> lights, int bodies, Span<int> order, int parent, int depth)
    {
        var at = _count++;
        if (order.Length == 1)
        {
            _nodes[at] = new(lights[order[0]], parent, -1, order[0], order[0] < bodies);
            _leafOf[order[0]] = at;
            return at;
        }
        var middle = depth < MostDivided ? Divide(lights, order) : order.Length / 2;
        var left = Build(lights, bodies, order[..middle], at, depth + 1);
        var right = Build(lights, bodies, order[middle..], at, depth + 1);
        _nodes[at] = new(LightBounds.Union(_nodes[left].Bounds, _nodes[right].Bounds), parent, right, -1, _nodes[left].HoldsBodies || _nodes[right].HoldsBodies);
        return at;
    }

    /// <summary>Puts those first that belong to the left, where the two sides together cost least; returns how many.</summary>
    private static int Divide(IReadOnlyList<LightBounds> lights, Span<int> order)
    {
        var (min, max) = (new Vector3(float.PositiveInfinity), new Vector3(float.NegativeInfinity));
        foreach (var i in order)
        {
            (min, max) = (Vector3.Min(min, lights[i].Middle), Vector3.Max(max, lights[i].Middle));
        }
        var size = max - min;
        var (best, bestAxis, bestBin) = (float.PositiveInfinity, -1, 0);
        var bins = new LightBounds?[Bins];
        Span<float> below = stackalloc float[Bins];
        for (var axis = 0; axis < 3; axis++)
        {
            if (!(size[axis] > 0))
            {
                continue;
            }
            Array.Clear(bins);
            foreach (var i in order)
            {
                var bin = BinOf(lights[i].Middle[axis], min[axis], size[axis]);
                bins[bin] = With(bins[bin], lights[i]);
            }
            LightBounds? sum = null;
            for (var bin = 0; bin < Bins - 1; bin++)
            {
                sum = bins[bin] is { } own ? With(sum, own) : sum;
                below[bin] = sum?.Cost(Most(size)) ?? float.PositiveInfinity;
            }
            sum = null;
            for (var bin = Bins - 1; bin > 0; bin--)
            {
                sum = bins[bin] is { } own ? With(sum, own) : sum;
                // Long boxes are divided across.
                var cost = (below[bin - 1] + (sum?.Cost(Most(size)) ?? float.PositiveInfinity)) * Most(size) / size[axis];
                if (cost < best)
                {
                    (best, bestAxis, bestBin) = (cost, axis, bin);
                }
            }
        }
        var middle = 0;
        if (bestAxis >= 0)
        {
            // Those of the left in their order, then those of the right in theirs.
            var all = order.ToArray();
            foreach (var i in all)
            {
                if (BinOf(lights[i].Middle[bestAxis], min[bestAxis], size[bestAxis]) < bestBin)
                {
                    order[middle++] = i;
                }
            }
            var next = middle;
            foreach (var i in all)
            {
                if (BinOf(lights[i].Middle[bestAxis], min[bestAxis], size[bestAxis]) >= bestBin)
                {
                    order[next++] = i;
                }
            }
        }
        // All in one place: by halves.
        return middle > 0 && middle < order.Length ? middle : order.Length / 2;
    }

    private static int BinOf(float x, float min, float size) => Math.Clamp((int)((x - min) / size * Bins), 0, Bins - 1);

    private static LightBounds With(LightBounds? a, in LightBounds b) => a is { } own ? LightBounds.Union(own, b) : b;
}
