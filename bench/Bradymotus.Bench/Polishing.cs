using System.Collections.Immutable;
using System.Diagnostics;
using Bradymotus.Core.Checks;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Tests;
using Bradymotus.Core.Time;

/// <summary>What work on curves costs: layers, moving and simplifying many keys.</summary>
internal static class Polishing
{
    private static readonly string[] Paths = [.. "translate rotate scale".Split(' ').SelectMany(k => "xyz".Select(a => $"transform.{k}.{a}"))];

    internal static int Run(Func<string, double, int> print)
    {
        // 100 channels of 12 objects, in turns without layers and with one more curve in each of ten layers.
        FrameState plain = new(new CompiledShot(Objects(0))), layered = new(new CompiledShot(Objects(10)));
        var (without, with) = (new List<double>(), new List<double>());
        for (var round = 0; round < 25; round++)
        {
            without.Add(Time(() => Play(plain)));
            with.Add(Time(() => Play(layered)));
        }
        print("100 channels, ms for 1,000 frames", Middle(without));
        print("100 channels in ten layers, ms for 1,000 frames", Middle(with));

        var address = new ChannelAddress("n0", Paths[1]);
        var dice = new Random(7);
        var curve = new Curve([.. Enumerable.Range(0, 440).Select(i => new Key(i * 10000 / 439.0, dice.Next(-50, 51) / 10.0, null, i % 3 == 0 ? Handle.Smooth : null, i % 3 == 0 ? Handle.Smooth : null))]);
        var baked = CurveTools.Bake(null, curve.Evaluate, 0, 9999, 1);
        var simplified = baked;
        print("10,000 baked keys simplified, ms", Middle([.. Enumerable.Range(0, 7).Select(_ => Time(() => simplified = CurveFitting.Simplify(baked, 0.005)))]));
        print("10,000 baked keys simplified, keys ÷ keys they were baked from", simplified.Keys.Length / 440.0);
        var shot = Objects(0).With(address, new Channel(0, baked));
        KeyAddress[] keys = [.. baked.Keys.Select(k => new KeyAddress(address, k.Frame))];
        print("contacts of 2 × 20,000 triangles on 100 frames, s", Middle([.. Enumerable.Range(0, 3).Select(_ => Time(() => MotionChecks.Of(Passing())) / 1000)]));
        // By hand, and thrown anew in every run: half of the pairs each.
        var corpus = CheckCorpus.ByHand.Concat(CheckCorpus.ByHand.Select(t => CheckCorpus.Thrown(t, Random.Shared))).ToList();
        print("pairs that look alike", corpus.Count);
        print("harmless ones that are named", corpus.Count(t => MotionChecks.Of(t.Harmless).Count > 0));
        print("wrong ones that are missed", corpus.Count(t => !MotionChecks.Of(t.Wrong).Any(f => f.Kind == t.Kind)));
        var memory = new CheckMemory();
        var busy = Objects(10);
        void Check()
        {
            var run = new MotionChecks(busy, null, memory);
            while (run.Step())
            {
            }
        }
        Check();
        print("checks again with nothing changed, ms", Middle([.. Enumerable.Range(0, 15).Select(_ => Time(Check))]));
        return print("10,000 keys moved, ms", Middle([.. Enumerable.Range(0, 15).Select(i => Time(() => new TransformKeys(keys, new(Frames: 3, Value: i)).Apply(shot)))]));
    }

    /// <summary>One ball goes through another and comes out again.</summary>
    private static Shot Passing()
    {
        static MeshNode Ball(string id) => new() { Id = id, Name = id, Shape = new SphereShape(1, 100, 101) };
        var shot = Shot.Empty("Passing") with { Range = new FrameRange(0, 99), Nodes = [Ball("a"), Ball("b")] };
        return shot.With(new ChannelAddress("a", Paths[0]), new Channel(0, new Curve([new(0, -3), new(99, 3)])));
    }

    private static Shot Objects(int layers)
    {
        var shot = Shot.Empty("Polishing") with
        {
            Range = new FrameRange(0, 1000),
            Layers = [.. Enumerable.Range(0, layers).Select(i => new Layer($"l{i}", $"Layer {i}"))],
            Nodes = [.. Enumerable.Range(0, 12).Select(i => (Node)new MeshNode { Id = $"n{i}", Name = $"Box {i}", Shape = new BoxShape() })],
        };
        var builder = new ShotBuilder(shot);
        var dice = new Random(3);
        Curve Some() => new([.. Enumerable.Range(0, 40).Select(i => new Key(i * 25, dice.Next(-90, 91) / 10.0))]);
        for (var i = 0; i < 100; i++)
        {
            var address = new ChannelAddress($"n{i / 9}", Paths[i % 9]);
            builder.Set(address, new Channel(0, Some()));
            for (var l = 0; l < layers; l++)
            {
                // One curve of each channel is in a layer: a hundred more, ten in each.
                if (i % layers == l)
                {
                    builder.Set(address.In($"l{l}"), new Channel(0, Some()));
                }
            }
        }
        return builder.ToShot();
    }

    private static void Play(FrameState state)
    {
        for (var f = 0; f < 1000; f++)
        {
            state.Evaluate(f);
        }
    }

    private static double Time(Action what)
    {
        var watch = Stopwatch.StartNew();
        what();
        return watch.Elapsed.TotalMilliseconds;
    }

    private static double Middle(List<double> values)
    {
        values.Sort();
        return values[values.Count / 2];
    }
}
