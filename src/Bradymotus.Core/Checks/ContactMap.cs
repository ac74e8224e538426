using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>
/// Where the surfaces of objects meet: for every frame of the range and every pair of which one moves against the other, how deep they
/// pass through each other, or that they touch. Worked out from the triangles themselves; boxes only say who need not be asked.
/// </summary>
/// <remarks>Longer than most: its passes over the frames share one state and what each of them has found.</remarks>
internal sealed class ContactMap(CheckedShot shot)
{
    /// <summary>What is nearer than this part of the smaller of two touches it.</summary>
    private const double TouchingPart = 0.015;

    /// <summary>What goes no deeper than this part of the smaller is how things stand that are put together by eye.</summary>
    private const double DepthPart = 0.006;

    /// <summary>What has slid no more than this part of itself while it touched another has not slid.</summary>
    private const double SlidePart = 0.03;

    /// <summary>So many frames it has to slide at least: a step of one frame is a step.</summary>
    private const int LeastSlides = 3;

    /// <summary>What goes farther than this part of the smaller in a frame is looked at between two frames as well, in steps of half of that.</summary>
    private const double FastPart = 0.25;

    private const int MostSteps = 16;

    /// <summary>Of pairs that seem to be in each other all the time so many frames are looked at.</summary>
    private const int Probes = 9;

    /// <summary>More pairs than this are not looked at: a crowd.</summary>
    private const int MostPairs = 20_000;

    private readonly Bodies _all = new(shot);
    private readonly List<ContactPair> _pairs = [];
    // Those of this run, by their key: a pair that is remembered was found in an earlier one.
    private readonly Dictionary<string, Body> _bodies = [];

    /// <summary>Whether an object, or something below it, touches anything that is not below it, on frames counted from the first of the range.</summary>
    /// <param name="axis">Only what stands in the way along this direction of the world, to one side or the other; null for all.</param>
    internal bool Touches(string node, int first, int last, Double3? axis = null) => Meets(node, first, last, (pair, i) =>
        (pair.Touching[i] || pair.Depths[i] > 0 || pair.Between[i].Depth > 0) && (axis is not { } along || IsInTheWay(pair.Normals[i], along)));

    /// <summary>Whether an object, or something below it, passes through anything that is not below it, on frames counted from the first of the range.</summary>
    internal bool PassesThrough(string node, int first, int last) => Meets(node, first, last, (pair, i) => Math.Max(pair.Depths[i], pair.Between[i].Depth) > pair.Tolerance);

    /// <summary>All that what an object does, and what it meets, depends on: the same things as long as nothing of that is another.</summary>
    internal object[] MeetingsOf(Node node)
    {
        var family = shot.Shot.Descendants([node.Id]);
        return [.. _all.DependsOn(shot.Compiled.IndexOfNode(node.Id)), .. family.Select(id => shot.Shot.Node(id)), shot.Shot.Range, shot.Shot.Layers,
            .. _pairs.Where(p => family.Contains(p.A.Id) != family.Contains(p.B.Id))];
    }

    private bool Meets(string node, int first, int last, Func<ContactPair, int, bool> isSo)
    {
        HashSet<string>? family = null;
        foreach (var pair in _pairs)
        {
            family ??= shot.Shot.Descendants([node]);
            if (family.Contains(pair.A.Id) == family.Contains(pair.B.Id))
            {
                continue;
            }
            for (var i = Math.Max(0, first); i <= Math.Min(last, pair.Touching.Length - 1); i++)
            {
                if (isSo(pair, i))
                {
                    return true;
                }
            }
        }
        return false;
    }

    private static bool IsInTheWay(System.Numerics.Vector3 normal, Double3 along) =>
        normal == System.Numerics.Vector3.Zero || Math.Abs(normal.X * along.X + normal.Y * along.Y + normal.Z * along.Z) > 0.5;

    /// <summary>Works everything out, giving way after each small piece.</summary>
    internal IEnumerable<bool> Work(CheckMemory memory)
    {
        // Made ready when something has to be looked at: most changes leave most as it was.
        var state = new Lazy<FrameState>(() => memory.Frames(shot.Compiled, shot.Assets), false);
        var followers = new List<Follower>();
        foreach (var _ in Follow(state, memory, followers))
        {
            yield return true;
        }
        var wanted = new List<(Follower A, Follower B, ContactPair Pair, object[] Of)>();
        foreach (var met in Moving(followers))
        {
            if (met is not var (a, b))
            {
                yield return true;
                continue;
            }
            object[] of = [.. _all.DependsOn(a.Body), .. _all.DependsOn(b.Body), shot.Shot.Range, shot.Shot.Layers];
            if (memory.TryGet($"{a.Body.Key} {b.Body.Key}", of, out ContactPair known))
            {
                _pairs.Add(known);
                continue;
            }
            wanted.Add((a, b, new ContactPair(a.Body, b.Body, a.Size, shot.Count, (float)(DepthPart * Math.Min(a.Size, b.Size)), _all.AreLoose(a.Body, b.Body)), of));
            if (wanted.Count >= MostPairs)
            {
                break;
            }
        }
        yield return true;
        if (wanted.Count == 0)
        {
            yield break;
        }
        foreach (var _ in FindCrossings(state.Value, wanted))
        {
            yield return true;
        }
        // What is in each other on every frame is put together so, and how deep does not matter; but what only lies on it is not in it.
        var together = wanted.Where(w => !w.Pair.Depths.Any(d => d == 0)).ToHashSet();
        var every = Math.Max(1, shot.Count / Probes);
        foreach (var _ in CompareAll(state.Value, [.. together], f => f % every == 0))
        {
            yield return true;
        }
        together.RemoveWhere(w => w.Pair.Depths.Where((_, f) => f % every == 0).Any(d => d <= w.Pair.Tolerance));
        foreach (var _ in CompareAll(state.Value, [.. wanted.Where(w => !together.Contains(w))], _ => true))
        {
            yield return true;
        }
        foreach (var (_, _, pair, of) in wanted)
        {
            memory.Put($"{pair.A.Key} {pair.B.Key}", of, pair);
            _pairs.Add(pair);
        }
    }

    /// <summary>How deep pairs are in each other on some frames, and whether they touch and slide.</summary>
    private IEnumerable<bool> CompareAll(FrameState state, List<(Follower A, Follower B, ContactPair Pair, object[] Of)> pairs, Func<int, bool> isAsked)
    {
        var marks = new ContactPair.Mark[pairs.Count];
        for (var f = 0; f < shot.Count && pairs.Count > 0; f++)
        {
            var isEvaluated = false;
            for (var p = 0; p < pairs.Count && isAsked(f); p++)
            {
                var (a, b, pair, _) = pairs[p];
                var near = TouchingPart * Math.Min(a.Size, b.Size);
                if (float.IsNaN(pair.Depths[f]) || !a.At(f).Meets(b.At(f), near))
                {
                    marks[p] = default;
                    continue;
                }
                if (!isEvaluated)
                {
                    state.Evaluate(shot.First + f);
                    isEvaluated = true;
                    yield return true;
                }
                var mark = marks[p];
                foreach (var _ in ContactPair.Compare(state, f, pair, a, b, near, mark, m => mark = m))
                {
                    yield return true;
                }
                marks[p] = mark;
                yield return true;
            }
        }
    }

    /// <summary>On which frames the surfaces of pairs pass through each other at all: those get an infinite depth until it is worked out.</summary>
    private IEnumerable<bool> FindCrossings(FrameState state, List<(Follower A, Follower B, ContactPair Pair, object[] Of)> wanted)
    {
        var passes = new int[wanted.Count];
        var boxes = new Dictionary<Mesh, (Double3 Min, Double3 Max)>(ReferenceEqualityComparer.Instance);
        for (var f = 0; f < shot.Count && wanted.Count > 0; f++)
        {
            var isEvaluated = false;
            for (var p = 0; p < wanted.Count; p++)
            {
                var (a, b, pair, _) = wanted[p];
                if (!a.At(f).Meets(b.At(f), 0))
                {
                    pair.Depths[f] = a.At(f).IsNone || b.At(f).IsNone ? float.NaN : 0;
                    passes[p] = 0;
                    continue;
                }
                if (!isEvaluated)
                {
                    state.Evaluate(shot.First + f);
                    isEvaluated = true;
                    yield return true;
                }
                if (a.Body.On(state) is null || b.Body.On(state) is null)
                {
                    (pair.Depths[f], passes[p]) = (float.NaN, 0);
                    continue;
                }
                if (passes[p] > 0 && a.Body.ChangedIn(state) <= passes[p] && b.Body.ChangedIn(state) <= passes[p])
                {
                    pair.Depths[f] = pair.Depths[f - 1];
                }
                else
                {
                    PlacedMesh? ma = null, mb = null;
                    foreach (var _ in a.Place(state, m => ma = m).Concat(b.Place(state, m => mb = m)))
                    {
                        yield return true;
                    }
                    foreach (var _ in PlacedMesh.Cross(ma!, mb!, () => pair.Depths[f] = float.PositiveInfinity))
                    {
                        yield return true;
                    }
                    yield return true;
                }
                pair.Touching[f] = pair.Depths[f] > 0;
                passes[p] = state.Pass;
            }
            foreach (var _ in LookBetween(state, wanted, f, boxes))
            {
                yield return true;
            }
        }
    }

    /// <summary>What moves fast may go through another, or into it and out again, between two frames.</summary>
    private IEnumerable<bool> LookBetween(
        FrameState state, List<(Follower A, Follower B, ContactPair Pair, object[] Of)> wanted, int f, Dictionary<Mesh, (Double3 Min, Double3 Max)> boxes)
    {
        if (f == 0)
        {
            yield break;
        }
        var fast = new List<(Follower A, Follower B, ContactPair Pair)>();
        var steps = 1;
        foreach (var (a, b, pair, _) in wanted)
        {
            if (pair.AreLoose && pair.Depths[f] == 0 && pair.Depths[f - 1] == 0 && Steps(a, b, f) is > 1 and var own)
            {
                fast.Add((a, b, pair));
                steps = Math.Max(steps, own);
            }
        }
        for (var step = 1; step < steps && fast.Count > 0; step++)
        {
            var frame = f - 1 + (double)step / steps;
            state.Evaluate(shot.First + frame);
            yield return true;
            foreach (var (a, b, pair) in fast)
            {
                if (!Follower.Look(state, a.Body, boxes).Meets(Follower.Look(state, b.Body, boxes), 0))
                {
                    continue;
                }
                PlacedMesh? ma = null, mb = null;
                var areCrossing = false;
                foreach (var _ in a.Place(state, m => ma = m).Concat(b.Place(state, m => mb = m)))
                {
                    yield return true;
                }
                foreach (var _ in PlacedMesh.Cross(ma!, mb!, () => areCrossing = true))
                {
                    yield return true;
                }
                if (areCrossing)
                {
                    foreach (var _ in Penetration.Find(ma!, mb!, true, pair.Tolerance, (d, _) => pair.Between[f] = d > pair.Between[f].Depth
                        ? ((float)d, (float)(shot.First + frame)) : pair.Between[f]))
                    {
                        yield return true;
                    }
                }
                yield return true;
            }
        }
    }

    /// <summary>Into how many steps the way to a frame is divided: 1 where the two move slowly against each other, or do not come near.</summary>
    private int Steps(Follower a, Follower b, int f)
    {
        if (a.At(f - 1).IsNone || a.At(f).IsNone || b.At(f - 1).IsNone || b.At(f).IsNone)
        {
            return 1;
        }
        // What strikes between two frames may be where it was on both: how fast it is says what comes before and after.
        var way = Way(a, b, f);
        way = f > 1 ? Longer(way, Way(a, b, f - 1)) : way;
        way = f + 1 < shot.Count ? Longer(way, Way(a, b, f + 1)) : way;
        var parts = way.Length / (FastPart * Math.Min(a.Size, b.Size));
        if (!(parts > 1) || !double.IsFinite(parts))
        {
            return 1;
        }
        var swept = a.At(f - 1).With(a.At(f));
        return new Room(swept.Min - way * 0.5, swept.Max + way * 0.5).Meets(b.At(f - 1).With(b.At(f)), 0) ? (int)Math.Clamp(Math.Ceiling(2 * parts), 2, MostSteps) : 1;
    }

    /// <summary>How far one moves against the other along each axis, from the frame before to a frame, in metres.</summary>
    private static Double3 Way(Follower a, Follower b, int f)
    {
        static Double3 Middle(in Room r) => (r.Min + r.Max) * 0.5;
        var way = Middle(a.At(f)) - Middle(a.At(f - 1)) - (Middle(b.At(f)) - Middle(b.At(f - 1)));
        return new(Math.Abs(way.X), Math.Abs(way.Y), Math.Abs(way.Z));
    }

    private static Double3 Longer(Double3 a, Double3 b) => double.IsFinite(b.Length) ? new(Math.Max(a.X, b.X), Math.Max(a.Y, b.Y), Math.Max(a.Z, b.Z)) : a;

    /// <summary>Finds the room that each mesh takes on each frame.</summary>
    private IEnumerable<bool> Follow(Lazy<FrameState> state, CheckMemory memory, List<Follower> followers)
    {
        var looked = 0;
        var unknown = new List<(Body Body, Rooms Rooms, object[] Of)>();
        // To be made ready takes as long as a frame.
        FrameState? copies = null;
        if (_all.HaveCopies)
        {
            copies = state.Value;
            yield return true;
            copies.Evaluate(shot.First);
            yield return true;
        }
        foreach (var body in _all.All(copies))
        {
            _bodies[body.Key] = body;
            object[] of = [.. _all.DependsOn(body), shot.Shot.Range, shot.Shot.Layers];
            if (!memory.TryGet(body.Key + " room", of, out Rooms rooms))
            {
                rooms = new(_all.Mover(body) < 0 && !_all.IsBent(body.Node) ? 1 : shot.Count);
                unknown.Add((body, rooms, of));
            }
            // The rooms are filled in below, before anything is made of them.
            else
            {
                followers.Add(new(body, rooms));
            }
            if (++looked % 64 == 0)
            {
                yield return true;
            }
        }
        var boxes = new Dictionary<Mesh, (Double3 Min, Double3 Max)>(ReferenceEqualityComparer.Instance);
        var longest = unknown.Count == 0 ? 0 : unknown.Max(u => u.Rooms.OnFrames.Length);
        if (longest > 0)
        {
            _ = state.Value;
            yield return true;
        }
        for (var f = 0; f < longest; f++)
        {
            state.Value.Evaluate(shot.First + f);
            yield return true;
            foreach (var (body, rooms, _) in unknown)
            {
                if (f >= rooms.OnFrames.Length)
                {
                    continue;
                }
                rooms.OnFrames[f] = Follower.Look(state.Value, body, boxes, rooms);
                if (++looked % 32 == 0)
                {
                    yield return true;
                }
            }
            yield return true;
        }
        foreach (var (body, rooms, of) in unknown)
        {
            memory.Put(body.Key + " room", of, rooms);
            followers.Add(new(body, rooms));
        }
        followers.RemoveAll(f => f.Everywhere.IsNone);
    }

    /// <summary>What has been found of contacts and slides.</summary>
    internal IEnumerable<Finding> Findings()
    {
        foreach (var pair in _pairs)
        {
            // What is in each other all the time is put together so, as a post in the ground and a boat in the water.
            if (pair.Depths.Any(d => d <= pair.Tolerance))
            {
                foreach (var (first, last) in Runs(pair.Depths.Length, i => pair.Depths[i] > pair.Tolerance))
                {
                    var deepest = Enumerable.Range(first, last - first + 1).MaxBy(i => pair.Depths[i]);
                    var takeOut = TakeOut.Of(shot, _bodies[pair.A.Key], _bodies[pair.B.Key], shot.First + first, shot.First + last, pair.Tolerance, pair.Depths);
                    yield return Found(FindingKind.Contact, pair, first, last, takeOut,
                        $"“{pair.A.Name}” and “{pair.B.Name}” pass through each other on {CheckedShot.Frames(shot.First + first, shot.First + last)}, up to {CheckedShot.Number(pair.Depths[deepest])} m deep (frame {shot.First + deepest}).");
                }
            }
            foreach (var (first, last) in Runs(pair.Between.Length, i => pair.Between[i].Depth > pair.Tolerance && !(i > 0 && pair.Depths[i - 1] > pair.Tolerance)
                && !(pair.Depths[i] > pair.Tolerance)))
            {
                var deepest = pair.Between[first..(last + 1)].MaxBy(d => d.Depth);
                var from = Math.Max(0, first - 1);
                yield return Found(FindingKind.Contact, pair, from, last, null,
                    $"“{pair.A.Name}” and “{pair.B.Name}” pass through each other between frames {shot.First + from} and {shot.First + last}, up to {CheckedShot.Number(deepest.Depth)} m deep (frame {CheckedShot.Number(deepest.Frame)}): on the frames themselves they do not.");
            }
            foreach (var (first, last, way) in Slides(pair))
            {
                yield return Found(FindingKind.Slide, pair, first, last, null,
                    $"“{pair.A.Name}” slides along “{pair.B.Name}” on {CheckedShot.Frames(shot.First + first, shot.First + last)}, {CheckedShot.Number(way)} m in all, without rolling.");
            }
        }
    }

    /// <summary>The contacts during which the one has slid on the other, from the first frame on which it did to the last, and how far.</summary>
    private static IEnumerable<(int First, int Last, double Way)> Slides(ContactPair pair)
    {
        foreach (var (first, last) in Runs(pair.Slides.Length, i => pair.Touching[i] && !(pair.Depths[i] > pair.Tolerance)))
        {
            var (sum, way, farthest) = (System.Numerics.Vector3.Zero, 0f, 0f);
            var sliding = new List<int>();
            // Slower than a hundredth of what a slide takes is trembling.
            var least = SlidePart / 100 * pair.Size;
            for (var i = first; i <= last; i++)
            {
                if (pair.Slides[i].Length() is var step && step > least)
                {
                    sliding.Add(i);
                    way += step;
                    sum += pair.Slides[i];
                    farthest = MathF.Max(farthest, sum.Length());
                }
            }
            // To and fro about one place it shakes.
            if (sliding.Count >= LeastSlides && farthest > SlidePart * pair.Size)
            {
                yield return (sliding[0], sliding[^1], way);
            }
        }
    }

    /// <summary>
    /// The pairs of which one can move against the other and whose rooms over all frames meet; nothing (null) now and then, to give way.
    /// The smaller comes first: it is the one that rests on the other.
    /// </summary>
    private IEnumerable<(Follower A, Follower B)?> Moving(List<Follower> followers)
    {
        var all = followers.Select(f => (Of: f, Mover: _all.Mover(f.Body), IsBent: _all.IsBent(f.Body.Node))).ToArray();
        var asked = 0;
        for (var i = 0; i < all.Length; i++)
        {
            var a = all[i];
            // What stands still meets only what moves, which asks for it.
            if (a.Mover < 0 && !a.IsBent)
            {
                continue;
            }
            for (var j = 0; j < all.Length; j++)
            {
                var b = all[j];
                var isStill = b.Mover < 0 && !b.IsBent;
                if (++asked % 1000 == 0)
                {
                    yield return null;
                }
                // Each pair once; and not such as the same thing carries.
                if (i == j || (!isStill && j < i) || (a.Mover == b.Mover && !a.IsBent && !b.IsBent) || _all.AreOfOneRow(a.Of.Body, b.Of.Body))
                {
                    continue;
                }
                if (a.Of.Everywhere.Meets(b.Of.Everywhere, TouchingPart * Math.Min(a.Of.Size, b.Of.Size)))
                {
                    yield return a.Of.Size <= b.Of.Size ? (a.Of, b.Of) : (b.Of, a.Of);
                }
            }
        }
    }

    private Finding Found(FindingKind kind, ContactPair pair, int first, int last, TakeOut? takeOut, string sentence) => new(kind, [pair.A.Id, pair.B.Id],
        [.. new[] { pair.A.Id, pair.B.Id }.SelectMany(Movers).Distinct()], shot.First + first, shot.First + last, sentence, takeOut?.Words)
    { FindFix = takeOut is null ? null : takeOut.Work };

    /// <summary>The keyed channels that move an object: its own, or those of the nearest that carries it.</summary>
    private IEnumerable<string> Movers(string id)
    {
        for (var node = shot.Shot.FindNode(id); node is not null; node = shot.Shot.FindNode(node.Parent))
        {
            var own = shot.Moved(node.Id, "transform.").SelectMany(c => c.Addresses).ToList();
            if (own.Count > 0)
            {
                return own;
            }
        }
        return [];
    }

    private static IEnumerable<(int First, int Last)> Runs(int count, Func<int, bool> is_)
    {
        for (var i = 0; i < count; i++)
        {
            if (!is_(i))
            {
                continue;
            }
            var first = i;
            while (i + 1 < count && is_(i + 1))
            {
                i++;
            }
            yield return (first, i);
        }
    }
}
