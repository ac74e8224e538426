using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;
using Bradymotus.Formats.Gltf;

namespace Bradymotus.Formats;

/// <summary>What is baked into a mesh.</summary>
public enum Bake
{
    /// <summary>How it is turned: its angles are 0 afterwards.</summary>
    Rotation,

    /// <summary>How it is stretched: its scales are 1 afterwards.</summary>
    Scale,

    /// <summary>Both.</summary>
    Both,
}

/// <summary>
/// Puts the rotation or the scale of objects into the vertices of their meshes, so that these channels read 0 or 1 and everything stays where it is.
/// With M = T·P·R·S·P⁻¹ the vertices are moved about the pivot by R·S, by S, or by S⁻¹·R·S where the scale stays.
/// </summary>
public static class Baking
{
    /// <summary>The edit, and the meshes that it refers to.</summary>
    /// <exception cref="Refusal">An object is no mesh, its rotation or scale is keyed, deformers hang on it, or it is scaled to nothing.</exception>
    public static (Edit Edit, IReadOnlyList<Asset> Assets) Of(Shot shot, ShotAssets assets, IReadOnlyList<string> ids, Bake what, double frame)
    {
        var state = new FrameState(new CompiledShot(shot), assets);
        state.Evaluate(frame);
        var edits = new List<Edit>();
        var made = new List<Asset>();
        foreach (var node in ids.Distinct().Select(shot.Node))
        {
            var mesh = node as MeshNode ?? throw new Refusal($"“{node.Name}” has no mesh of its own to bake into: select objects with a shape.");
            if (!mesh.Deformers.IsEmpty)
            {
                throw new Refusal($"“{node.Name}” has deformers, which bend along its axes as they are: take them off first.");
            }
            var scales = new[] { "x", "y", "z" }.Select(c => $"transform.scale.{c}").ToArray();
            var turns = RotationOrders.Paths(node.RotationOrder);
            string[] gone = [.. what != Bake.Scale ? turns : [], .. what != Bake.Rotation ? scales : []];
            string[] fixedNow = [.. gone, .. mesh.Shape.Channels.Select(c => $"shape.{c.Path}")];
            if (fixedNow.FirstOrDefault(p => shot.Channel(new(node.Id, p)).Curve is not null) is { } keyed)
            {
                throw new Refusal($"{ChannelName(shot, node, keyed)} of “{node.Name}” is keyed: remove its keys first, since a mesh has one shape for all frames.");
            }
            if (!shot.Layers.IsEmpty && node.Channels?.Keys.FirstOrDefault(p => new ChannelAddress(node.Id, p) is { Layer: not null } a && fixedNow.Contains(a.Base.Path)) is { } layered)
            {
                throw new Refusal($"{ChannelName(shot, node, new ChannelAddress(node.Id, layered).Base.Path)} of “{node.Name}” is in a layer: merge the layers first, since a mesh has one shape for all frames.");
            }
            double Now(string path) => CompiledShot.ValueOf(shot, new(node.Id, path), frame);
            var scale = new Double3(Now(scales[0]), Now(scales[1]), Now(scales[2]));
            if (scale.X == 0 || scale.Y == 0 || scale.Z == 0)
            {
                throw new Refusal($"“{node.Name}” is scaled to nothing: give it a scale first.");
            }
            var index = state.Compiled.IndexOfNode(node.Id);
            var rotation = RotationOrders.ToAffine(node.RotationOrder, [.. turns.Select(Now)]);
            var stretch = Affine.Identity.Scaled(scale);
            var into = what switch
            {
                Bake.Both => rotation * stretch,
                Bake.Scale => stretch,
                _ => Affine.Identity.Scaled(new(1 / scale.X, 1 / scale.Y, 1 / scale.Z)) * rotation * stretch,
            };
            var pivot = new Double3(Now("transform.pivot.x"), Now("transform.pivot.y"), Now("transform.pivot.z"));
            into = into with { Origin = pivot - into.Vector(pivot) };
            var baked = Moved(state.Mesh(index)!.Rest, into);
            var asset = Asset.Of(MeshFile.Write(baked));
            made.Add(asset);
            // What hangs below stays: what the object no longer does lies between it and them.
            edits.Add(new ReplaceNode(mesh with { Shape = new AssetShape(asset.Name, baked.VertexCount, baked.TriangleCount) }));
            edits.Add(new SetValues([.. gone.Select(p => new ChannelValue(new(node.Id, p), p.Contains("scale", StringComparison.Ordinal) || p.EndsWith(".w", StringComparison.Ordinal) ? 1 : 0))]));
            if (shot.Children(node.Id).Any())
            {
                edits.Add(new KeepBelow(node.Id, into));
            }
        }
        var label = what switch { Bake.Rotation => "rotation", Bake.Scale => "scale", _ => "rotation and scale" };
        return (new Batch($"Bake the {label} of {(ids.Count == 1 ? shot.Node(ids[0]).Name : $"{ids.Count} objects")}", edits), made);
    }

    private static string ChannelName(Shot shot, Node node, string path) => shot.Spec(new(node.Id, path)).Label;

    /// <summary>A mesh with its vertices, normals and targets elsewhere; turned inside out where the map mirrors.</summary>
    private static Mesh Moved(Mesh mesh, in Affine map)
    {
        var (x, y, z) = (map.X, map.Y, map.Z);
        // Normals go with the cofactor: its sign keeps them outside where the map mirrors.
        var sign = map.Determinant < 0 ? -1 : 1;
        var (cx, cy, cz) = (Double3.Cross(y, z) * sign, Double3.Cross(z, x) * sign, Double3.Cross(x, y) * sign);
        var linear = map with { Origin = Double3.Zero };
        var cofactor = new Affine(cx, cy, cz, Double3.Zero);
        var normals = new float[mesh.Normals.Length];
        for (var v = 0; v < normals.Length; v += 3)
        {
            var n = cofactor.Vector(new(mesh.Normals[v], mesh.Normals[v + 1], mesh.Normals[v + 2])).Normalized();
            (normals[v], normals[v + 1], normals[v + 2]) = ((float)n.X, (float)n.Y, (float)n.Z);
        }
        var indices = (int[])mesh.Indices.Clone();
        for (var t = 0; t < indices.Length && sign < 0; t += 3)
        {
            (indices[t + 1], indices[t + 2]) = (indices[t + 2], indices[t + 1]);
        }
        return mesh with
        {
            Positions = Points(mesh.Positions, map),
            Normals = normals,
            Indices = indices,
            Targets = [.. mesh.Targets.Select(t => new MorphTarget(t.Vertices, Points(t.Positions, linear), Points(t.Normals, linear)))],
        };
    }

    private static float[] Points(float[] from, in Affine map)
    {
        var to = new float[from.Length];
        for (var v = 0; v < to.Length; v += 3)
        {
            var p = map.Point(new(from[v], from[v + 1], from[v + 2]));
            (to[v], to[v + 1], to[v + 2]) = ((float)p.X, (float)p.Y, (float)p.Z);
        }
        return to;
    }
}
