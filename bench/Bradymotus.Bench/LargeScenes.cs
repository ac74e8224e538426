using System.Collections.Immutable;
using System.Diagnostics;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;

/// <summary>What edits cost in large scenes, and how the cost grows from a tenth of the size.</summary>
internal static class LargeScenes
{
    private static readonly string[] Paths = [.. "translate rotate scale".Split(' ').SelectMany(k => "xyz".Select(a => $"transform.{k}.{a}"))];

    internal static int Run(Func<string, double, int> print)
    {
        // A shot of 5,000 nodes with nine set channels each, in groups of ten.
        Shot large = Scene(5000), small = Scene(50);
        print("structural edit in 5,000 nodes, ms", Median(15, () => new Rename("n2500", "Other").Apply(large), () => new Reparent(["n4003"], 0, "n20").Apply(large), () => new AddNodes([new GroupNode { Id = "new", Name = "New" }]).Apply(large)));
        // In turns, so that a machine that is busy at times is so for both.
        var (one, other) = (new Drag(large), new Drag(small));
        var (steps, fewSteps) = (new List<double>(), new List<double>());
        for (var round = 0; round < 60; round++)
        {
            steps.Add(one.Steps(20));
            fewSteps.Add(other.Steps(20));
        }
        print("drag step in 5,000 nodes, ms", Middle(steps));
        print("drag step in 50 nodes, ms", Middle(fewSteps));

        Growing("TransformKeys on 100,000 keys", 100_000, n =>
        {
            var shot = With(Curve(n));
            var keys = Enumerable.Range(0, n).Select(i => new KeyAddress(Address, i)).ToList();
            return () => new TransformKeys(keys, new KeyTransform(Frames: 3, Value: 1)).Apply(shot);
        });
        Growing("200 keys inserted in 100,000", 100_000, n =>
        {
            var shot = With(Curve(n));
            var keys = Enumerable.Range(0, 200).Select(i => new KeyAddress(Address, (i + 0.5) * (n / 200) + 0.25)).ToList();
            return () => new InsertKeys(keys).Apply(shot);
        });
        Growing("SetKeys on 15,000 channels", 15_000, n =>
        {
            var shot = Scene(n / 9 + 1);
            var values = Enumerable.Range(0, n).Select(i => new ChannelValue(new($"n{i / 9}", Paths[i % 9]), i)).ToList();
            return () => new SetKeys(12, values).Apply(shot);
        });
        Growing("duplicating 5,000 nodes", 5000, n =>
        {
            var shot = Shot.Empty("Siblings") with { Nodes = [.. Enumerable.Range(0, n).Select(i => (Node)new MeshNode { Id = $"n{i}", Name = $"Plank {i}", Shape = new BoxShape() })] };
            var ids = shot.Nodes.Select(x => x.Id).ToList();
            return () => new DuplicateNodes(ids, "copy").Apply(shot);
        });
        void Growing(string what, int size, Func<int, Func<Shot>> make)
        {
            Func<Shot> full = make(size), tenth = make(size / 10);
            var (whole, part) = (new List<double>(), new List<double>());
            for (var round = 0; round < 9; round++)
            {
                whole.Add(Time(full));
                part.Add(Time(tenth));
            }
            print($"{what}, ms", Middle(whole));
            print($"{what}, growth", Middle(whole) / Middle(part));
        }

        print("history of 1,000 edits of 9 curves of 1,000 keys, MB", HistorySize());
        return 0;
    }

    private static readonly ChannelAddress Address = new("a", "transform.translate.y");

    private static Shot With(Curve curve) => (Shot.Empty("One") with { Nodes = [new GroupNode { Id = "a", Name = "A" }] }).With(Address, new Channel(0, curve));

    private static Curve Curve(int keys) => new([.. Enumerable.Range(0, keys).Select(i => new Key(i, i % 7, Out: i % 3 == 0 ? new FreeHandle(0.3, 1) : null))]);

    private static Shot Scene(int nodes)
    {
        ImmutableSortedDictionary<string, Channel> channels = ImmutableSortedDictionary.CreateRange(Paths.Select((p, i) => KeyValuePair.Create(p, new Channel(i < 6 ? i : 1))));
        return Shot.Empty("Large") with
        {
            Nodes = [.. Enumerable.Range(0, nodes).Select(i => (Node)new MeshNode { Id = $"n{i}", Name = $"N {i}", Parent = i % 10 == 0 ? null : $"n{i - i % 10}", Shape = new BoxShape(), Channels = channels })],
        };
    }

    private static double HistorySize()
    {
        var shot = Shot.Empty("Keys") with { Nodes = [new GroupNode { Id = "a", Name = "A" }] };
        foreach (var path in Paths)
        {
            shot = shot.With(new("a", path), new Channel(0, Curve(1000)));
        }
        var before = GC.GetTotalMemory(forceFullCollection: true);
        var history = new History(shot);
        for (var i = 0; i < 1000; i++)
        {
            history.Append(new EditEntry(new SetKeys(i, [.. Paths.Select(p => new ChannelValue(new("a", p), i * 0.5))])));
        }
        var after = GC.GetTotalMemory(forceFullCollection: true);
        GC.KeepAlive(history);
        return (after - before) / 1e6;
    }

    /// <summary>What the page does at each step of a dragged handle: an edit, the shot made ready, its frame, the buffers.</summary>
    private sealed class Drag
    {
        private readonly Shot _shot;
        private readonly FrameState _state;
        private readonly FrameBuffers _buffers = new();
        private CompiledShot _compiled;
        private double _at;

        internal Drag(Shot shot)
        {
            _shot = shot;
            _compiled = new CompiledShot(shot);
            _state = new FrameState(_compiled);
            _state.Evaluate(5);
            _buffers.Fill(_state);
        }

        internal double Steps(int count) => Time(() =>
        {
            for (var i = 0; i < count; i++)
            {
                var (edit, _) = Posing.Set(_shot, [new(new("n33", Paths[0]), _at += 0.01)], 5, autoKey: false);
                _compiled = new CompiledShot(edit!.Apply(_shot), _compiled);
                _state.Show(_compiled);
                _state.Evaluate(5);
                _buffers.Fill(_state);
            }
            return _shot;
        }) / count;
    }

    private static double Time(Func<Shot> what)
    {
        var watch = Stopwatch.StartNew();
        GC.KeepAlive(what());
        return watch.Elapsed.TotalMilliseconds;
    }

    private static double Median(int rounds, params Func<Shot>[] each) =>
        each.Max(what => Middle([.. Enumerable.Range(0, rounds).Select(_ => Time(what))]));

    private static double Middle(List<double> values)
    {
        values.Sort();
        return values[values.Count / 2];
    }
}
