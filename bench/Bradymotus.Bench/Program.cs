// Native benchmarks. What is compared with another program is measured in the same run by bench/run.sh, in turn, and the ratio is what counts.
// Usage: bench curves KEYS.json | random | scene OUT.bin | rays IN.bin | draft SHOT | large | edits | light SHOT… | polish | models FOLDER
using System.Diagnostics;
using System.Numerics;
using System.Text.Json;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Serialization;
using Bradymotus.Render;
using Bradymotus.Render.Rays;

return args switch
{
    ["curves", var file] => Curves(file),
    ["random"] => RandomAccess(),
    ["scene", var file] => WriteScene(file),
    ["rays", var file] => Rays(file),
    ["draft", var file] => Draft(file),
    ["models", var folder] => Models.Run(folder, Print),
    ["polish"] => Polishing.Run(Print),
    ["large"] => LargeScenes.Run(Print),
    ["edits"] => LargeEdits.Run(Print),
    ["light", .. var shots] => Lighting.Run(shots, Print),
    _ => 1,
};

static double Median(List<double> values)
{
    values.Sort();
    return values[values.Count / 2];
}

static int Print(string name, double value)
{
    Console.WriteLine(FormattableString.Invariant($"{{\"name\":\"{name}\",\"value\":{value:R}}}"));
    return 0;
}

// Evaluations a second of a curve with free handles on every key, at the frames of a long play: one by one, and as a run.
static int Curves(string file)
{
    var curve = ShotJson.Read<Curve>(File.ReadAllText(file), "curve").Compile();
    const int count = 1_000_000;
    var (single, run) = (new List<double>(), new List<double>());
    var values = new double[count];
    var sum = 0.0;
    for (var round = 0; round < 9; round++)
    {
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < count; i++)
        {
            sum += curve.Evaluate(i * 0.000937);
        }
        single.Add(count / watch.Elapsed.TotalSeconds);
        watch.Restart();
        curve.Sample(0, 0.000937, values);
        run.Add(count / watch.Elapsed.TotalSeconds);
        sum += values[round];
    }
    Console.Error.WriteLine(sum);
    Print("curve evaluations per second, one by one", Median(single));
    return Print("curve evaluations per second", Median(run));
}

// A short curve and a long one take turns, so that a machine that is busy at times is so for both.
static int RandomAccess()
{
    var random = new Random(3);
    (CurveEvaluator Curve, double[] Frames) Make(int keys)
    {
        var frame = 0.0;
        var curve = new Curve([.. Enumerable.Range(0, keys).Select(_ => new Key(frame += 1 + random.NextDouble() * 9, random.NextDouble() * 10,
            Segment.Bezier, new FreeHandle(-0.4, 0.3), new FreeHandle(0.3, 0.2)))]).Compile();
        return (curve, [.. Enumerable.Range(0, 1 << 17).Select(_ => random.NextDouble() * frame)]);
    }
    var (few, many) = (Make(10), Make(100_000));
    var sum = 0.0;
    double Time((CurveEvaluator Curve, double[] Frames) of)
    {
        var watch = Stopwatch.StartNew();
        foreach (var frame in of.Frames)
        {
            sum += of.Curve.Evaluate(frame);
        }
        return watch.Elapsed.TotalSeconds / of.Frames.Length * 1e9;
    }
    var (first, second, ratio) = (new List<double>(), new List<double>(), new List<double>());
    for (var round = 0; round < 60; round++)
    {
        var (a, b) = (Time(few), Time(many));
        if (round >= 10)
        {
            first.Add(a);
            second.Add(b);
            ratio.Add(b / a);
        }
    }
    Console.Error.WriteLine(sum);
    Print("random access, 10 keys, ns", Median(first));
    Print("random access, 100000 keys, ns", Median(second));
    return Print("random access, 100000 keys to 10", Median(ratio));
}

// 65,000 triangles and a million incoherent rays, for both programs.
static int WriteScene(string file)
{
    var random = new Random(11);
    var positions = new List<float>();
    var indices = new List<int>();
    foreach (var mesh in Enumerable.Range(0, 30).Select(i => i % 2 == 0 ? new TorusShape(0.8, 0.3, 48, 23).Build() : new SphereShape(0.7, 46, 24).Build()))
    {
        var at = new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f) * 6;
        var start = positions.Count / 3;
        for (var i = 0; i < mesh.Positions.Length; i += 3)
        {
            positions.AddRange([mesh.Positions[i] + at.X, mesh.Positions[i + 1] + at.Y, mesh.Positions[i + 2] + at.Z]);
        }
        indices.AddRange(mesh.Indices.Select(i => i + start));
    }
    using var writer = new BinaryWriter(File.Create(file));
    writer.Write(positions.Count / 3);
    writer.Write(indices.Count / 3);
    const int rays = 1_000_000;
    writer.Write(rays);
    positions.ForEach(writer.Write);
    indices.ForEach(writer.Write);
    for (var i = 0; i < rays; i++)
    {
        Vector3 Next() => new(random.NextSingle() * 2 - 1, random.NextSingle() * 2 - 1, random.NextSingle() * 2 - 1);
        var origin = Next() * 5;
        var direction = Vector3.Normalize(Next() * 3 - origin + Next());
        foreach (var v in new[] { origin.X, origin.Y, origin.Z, direction.X, direction.Y, direction.Z })
        {
            writer.Write(v);
        }
    }
    return Print("triangles", indices.Count / 3);
}

static int Rays(string file)
{
    using var reader = new BinaryReader(File.OpenRead(file));
    var (vertices, triangles, count) = (reader.ReadInt32(), reader.ReadInt32(), reader.ReadInt32());
    float[] Floats(int n) => System.Runtime.InteropServices.MemoryMarshal.Cast<byte, float>(reader.ReadBytes(4 * n)).ToArray();
    var positions = Floats(3 * vertices);
    var indices = System.Runtime.InteropServices.MemoryMarshal.Cast<byte, int>(reader.ReadBytes(12 * triangles)).ToArray();
    var data = Floats(6 * count);
    var build = Stopwatch.StartNew();
    var mesh = new TriangleMesh(positions, indices);
    Print("build, ms", build.Elapsed.TotalMilliseconds);
    var rays = new Ray[count];
    for (var i = 0; i < count; i++)
    {
        rays[i] = new(new(data[6 * i], data[6 * i + 1], data[6 * i + 2]), new(data[6 * i + 3], data[6 * i + 4], data[6 * i + 5]));
    }
    var rates = new List<double>();
    var hits = 0;
    var sum = 0.0;
    for (var round = 0; round < 7; round++)
    {
        (hits, sum) = (0, 0);
        var watch = Stopwatch.StartNew();
        foreach (ref var ray in rays.AsSpan())
        {
            var hit = mesh.Trace(ray);
            if (hit.IsHit)
            {
                hits++;
                sum += hit.T;
            }
        }
        rates.Add(count / watch.Elapsed.TotalSeconds);
    }
    Print("hits", hits);
    Print("sum of distances", sum);
    return Print("rays per second", Median(rates));
}

// One thread and two take turns on every frame. The best tenth counts: a busy machine only ever makes it slower.
static int Draft(string file)
{
    var renderer = new FrameRenderer(ShotJson.ReadShot(File.ReadAllText(file)));
    double Time(double frame, int threads)
    {
        var watch = Stopwatch.StartNew();
        renderer.Render(frame, new(640, 360), Quality.Draft, threads: threads);
        return watch.Elapsed.TotalSeconds;
    }
    // Two renderers that share nothing: what the machine itself gains by its second processor.
    var beside = new FrameRenderer(ShotJson.ReadShot(File.ReadAllText(file)));
    double TimeApart(double frame)
    {
        var watch = Stopwatch.StartNew();
        var other = Task.Run(() => beside.Render(frame, new(640, 360), Quality.Draft, threads: 1));
        renderer.Render(frame, new(640, 360), Quality.Draft, threads: 1);
        other.Wait();
        return watch.Elapsed.TotalSeconds / 2;
    }
    var (one, two, apart) = (new List<double>(), new List<double>(), new List<double>());
    for (var frame = 0; frame < 240; frame++)
    {
        // In turn the first: each moves every shape anew.
        var swap = frame % 2 == 1;
        var first = Time(frame, swap ? 2 : 1);
        var second = Time(frame + 0.5, swap ? 1 : 2);
        if (frame < 20)
        {
            continue;
        }
        apart.Add(TimeApart(frame + 0.25));
        one.Add(swap ? second : first);
        two.Add(swap ? first : second);
    }
    // A host that takes the processors away at times only ever adds: the best are nearest to the truth.
    static double Best(List<double> times) => times.Order().Take(8).Average();
    Print("draft pictures per second, one thread", 1 / Best(one));
    Print("draft pictures per second, two renderers apart", 1 / Best(apart));
    return Print("draft pictures per second, two threads", 1 / Best(two));
}
