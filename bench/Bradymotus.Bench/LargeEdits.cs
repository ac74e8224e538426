using System.Collections.Immutable;
using System.Diagnostics;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;

/// <summary>What is done to very many objects at once, and to long histories.</summary>
internal static class LargeEdits
{
    private const int Many = 20_000;

    private static readonly string[] Paths = [.. "translate rotate".Split(' ').SelectMany(k => "xyz".Select(a => $"transform.{k}.{a}"))];

    private static readonly Curve Swing = new([.. Enumerable.Range(0, 10).Select(i => new Key(i * 10, i * 40 % 90))]);

    internal static int Run(Func<string, double, int> print)
    {
        Shot keyed = Keyed(), layered = Layered(keyed);
        List<string> ids = [.. keyed.Nodes.Select(n => n.Id)];
        var keys = ids.Select(id => new KeyAddress(new(id, Paths[3]), 10)).ToList();
        print("20,000 nodes: stagger, ms", Best(() => new StaggerKeys(keys, 0.01).Apply(keyed)));
        print("20,000 nodes: unroll, ms", Best(() => new UnrollRotations(ids).Apply(keyed)));
        print("20,000 nodes: merge a layer, ms", Best(() => new MergeLayer("b").Apply(layered)));
        print("20,000 nodes: remove a layer, ms", Best(() => new RemoveLayer("b").Apply(layered)));
        print("20,000 nodes: rotation order, ms", Best(() => new SetRotationOrder(ids, RotationOrder.Zyx).Apply(keyed)));
        var below = keyed with { Nodes = [new GroupNode { Id = "top", Name = "Top" }, .. keyed.Nodes.Skip(1).Select(n => n with { Parent = "top" })] };
        print("20,000 nodes: keep below, ms", Best(() => new KeepBelow("top", Affine.Identity with { Origin = new(1, 2, 3) }).Apply(below)));
        var instances = Shot.Empty("Instances") with
        {
            Nodes = [new MeshNode { Id = "one", Name = "One", Shape = new BoxShape() }, .. Enumerable.Range(0, 4000).Select(i => (Node)new InstanceNode { Id = $"i{i}", Name = $"I {i}", Of = "one" })],
        };
        print("4,000 instances made real, ms", Best(() => new MakeReal([.. instances.Nodes.Skip(1).Select(n => n.Id)], "real", 0).Apply(instances)));
        print("a state after 200 undos in two windows, ms", Best(AfterUndos));
        print("sample of a chain of 5,000, ms", Best(SampleOfChain));
        return 0;
    }

    private static Shot Keyed()
    {
        var channels = ImmutableSortedDictionary.CreateRange(Paths.Select(p => KeyValuePair.Create(p, new Channel(0, Swing))));
        return Shot.Empty("Many") with
        {
            Range = new FrameRange(0, 100),
            Nodes = [.. Enumerable.Range(0, Many).Select(i => (Node)new GroupNode { Id = $"n{i}", Name = $"N {i}", Channels = channels })],
        };
    }

    private static Shot Layered(Shot shot)
    {
        // Of what is laid over something that moves every frame becomes a key: that is another matter.
        var over = Paths[..3].Select(p => KeyValuePair.Create(new ChannelAddress("n", p).In("b").Path, new Channel(0, Swing))).ToList();
        return shot with
        {
            Layers = [new Layer("a", "A"), new Layer("b", "B")],
            Nodes = [.. shot.Nodes.Select(n => n with { Channels = n.Channels!.RemoveRange(Paths[..3]).AddRange(over) })],
        };
    }

    /// <summary>Two windows: one changes and takes back, 200 times, while the other's changes come in between.</summary>
    private static object AfterUndos()
    {
        var shot = Shot.Empty("Undos") with { Nodes = [.. "ab".Select(c => (Node)new GroupNode { Id = $"{c}", Name = $"{c}" })] };
        EditEntry Set(string id, double value, string line) => new(new SetValues([new(new(id, Paths[1]), value)])) { Id = line };
        var history = new History(shot);
        for (var i = 0; i < 200; i++)
        {
            var own = history.Append(Set("a", i, $"a{i}")).Revision;
            history.Append(Set("b", i, $"b{i}"), isForeign: true);
            history.Append(new LeaveOutEntry(own) { Id = $"u{i}" });
        }
        return history.StateAt(history.Revision - 1);
    }

    private static object SampleOfChain()
    {
        var chain = Shot.Empty("Chain") with { Nodes = [.. Enumerable.Range(0, 5000).Select(i => (Node)new GroupNode { Id = $"n{i}", Name = $"N {i}", Parent = i == 0 ? null : $"n{i - 1}" })] };
        var state = new FrameState(new CompiledShot(chain));
        state.Evaluate(5);
        return ShotSample.Of(state);
    }

    private static double Best(Func<object> what) => Enumerable.Range(0, 5).Min(_ =>
    {
        var watch = Stopwatch.StartNew();
        GC.KeepAlive(what());
        return watch.Elapsed.TotalMilliseconds;
    });
}
