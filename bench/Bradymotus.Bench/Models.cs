using System.Diagnostics;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Time;
using Bradymotus.Formats;
using Bradymotus.Formats.Gltf;

/// <summary>Models made by bench/node/models.mjs: read, written, and bent.</summary>
internal static class Models
{
    internal static int Run(string folder, Func<string, double, int> print)
    {
        foreach (var name in new[] { "sheet", "skin" })
        {
            var bytes = File.ReadAllBytes(Path.Combine(folder, $"{name}.glb"));
            var (reads, writes) = (new List<double>(), new List<double>());
            for (var i = 0; i < 7; i++)
            {
                var watch = Stopwatch.StartNew();
                var imported = Read(name, bytes);
                reads.Add(watch.Elapsed.TotalMilliseconds);
                var meshes = Meshes(imported);
                watch.Restart();
                _ = GltfWriter.Write(imported.Shot, meshes);
                writes.Add(watch.Elapsed.TotalMilliseconds);
            }
            print($"ours reads {name}, ms", Median(reads[2..]));
            print($"ours writes {name}, ms", Median(writes[2..]));
        }
        foreach (var name in new[] { "skin", "morph" })
        {
            var imported = Read(name, File.ReadAllBytes(Path.Combine(folder, $"{name}.glb")));
            var state = new FrameState(new CompiledShot(imported.Shot), Meshes(imported));
            var frames = new List<double>();
            for (var i = 0; i < 400; i++)
            {
                var watch = Stopwatch.StartNew();
                state.Evaluate(i % 40 + 0.5);
                frames.Add(watch.Elapsed.TotalMilliseconds);
            }
            print($"{name} native, ms a frame", Median(frames[200..]));
        }
        return 0;
    }

    private static Imported Read(string name, byte[] bytes) =>
        Importer.Read(new FilesInMemory($"{name}.glb", new Dictionary<string, byte[]> { [$"{name}.glb"] = bytes }), new(FrameRate.Default));

    private static ShotAssets Meshes(Imported imported)
    {
        var meshes = new ShotAssets();
        foreach (var asset in imported.Assets)
        {
            meshes.Put(asset.Name, MeshFile.Read(asset.Bytes));
        }
        return meshes;
    }

    private static double Median(List<double> values)
    {
        values.Sort();
        return values[values.Count / 2];
    }
}
