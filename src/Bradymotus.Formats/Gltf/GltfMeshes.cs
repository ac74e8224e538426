using System.Numerics;
using System.Runtime.InteropServices;
using Bradymotus.Core;
using Bradymotus.Core.Geometry;
using SharpGLTF.Schema2;
using Mesh = Bradymotus.Core.Geometry.Mesh;

namespace Bradymotus.Formats.Gltf;

/// <summary>A mesh of a glTF file as one of ours: all vertices of all primitives, in the order of the file, and each primitive a part.</summary>
/// <remarks>Longer than most: positions, normals, colours, joints and targets of a vertex have to keep one order.</remarks>
/// <param name="Materials">For each part.</param>
internal sealed record GltfMeshes(Mesh Mesh, IReadOnlyList<Material?> Materials)
{
    /// <param name="isOurs">The primitives share one set of vertices, as <see cref="MeshFile"/> writes them.</param>
    /// <param name="budget">Of the whole file.</param>
    /// <param name="skipped">What could not be brought in is added.</param>
    /// <exception cref="Refusal">It has more vertices than a shape can have, takes more memory than there is for it, or has numbers that are none.</exception>
    internal static GltfMeshes Read(SharpGLTF.Schema2.Mesh gltf, bool isOurs, GltfBudget budget, ICollection<string> skipped)
    {
        var name = gltf.Name is { Length: > 0 } text ? $"“{text}”" : $"{gltf.LogicalIndex}";
        var primitives = new List<MeshPrimitive>();
        foreach (var primitive in gltf.Primitives)
        {
            if (primitive.DrawPrimitiveType is PrimitiveType.TRIANGLES or PrimitiveType.TRIANGLE_STRIP or PrimitiveType.TRIANGLE_FAN)
            {
                primitives.Add(primitive);
            }
            else
            {
                skipped.Add($"Points and lines of the mesh {name} were left out: only triangles can be drawn.");
            }
        }
        var sources = isOurs ? primitives.Take(1).ToList() : primitives;
        var counts = sources.Select(p => Count(p, name)).ToList();
        var total = counts.Sum(c => (long)c);
        if (total > Shape.MostVertices)
        {
            throw new Refusal($"The mesh {name} has {total} vertices, more than the {Shape.MostVertices} that a shape can have: split it.");
        }
        var n = (int)total;
        var hasTexCoords = sources.Any(p => p.GetVertexAccessor("TEXCOORD_0") is not null);
        var hasColors = sources.Any(p => p.GetVertexAccessor("COLOR_0") is not null);
        var influences = 4 * sources.Select(Sets).DefaultIfEmpty().Max();
        var targetCount = sources.Select(p => p.MorphTargetsCount).DefaultIfEmpty().Max();
        // In bytes: positions and normals of the mesh and of each target, two texture coordinates, four colours, a joint and its weight.
        var bytesOfVertex = 24L + 24L * targetCount + (hasTexCoords ? 8 : 0) + (hasColors ? 16 : 0) + 6L * influences;
        budget.Take(bytesOfVertex * n);
        var positions = new float[3 * n];
        var normals = new float[3 * n];
        var hasNormals = true;
        var texCoords = hasTexCoords ? new float[2 * n] : null;
        var colors = hasColors ? new float[4 * n] : null;
        var (joints, weights) = (new ushort[influences * n], new float[influences * n]);
        var targets = Enumerable.Range(0, targetCount).Select(_ => (Positions: new float[3 * n], Normals: new float[3 * n])).ToArray();
        var hasTargetNormals = true;
        // The primitives that have no normals: glTF 2.0, section 3.7.2.1, wants them flat.
        var bare = new HashSet<int>();
        var first = 0;
        for (var i = 0; i < sources.Count; i++)
        {
            var (primitive, count) = (sources[i], counts[i]);
            Triples(primitive.GetVertexAccessor("POSITION"), positions, first, count);
            if (primitive.GetVertexAccessor("NORMAL") is { } own)
            {
                Triples(own, normals, first, count);
            }
            else
            {
                hasNormals = false;
                bare.Add(i);
            }
            if (texCoords is not null && primitive.GetVertexAccessor("TEXCOORD_0") is { } uv)
            {
                var pairs = uv.AsVector2Array();
                for (var v = 0; v < Math.Min(count, pairs.Count); v++)
                {
                    (texCoords[2 * (first + v)], texCoords[2 * (first + v) + 1]) = (pairs[v].X, pairs[v].Y);
                }
            }
            for (var set = 0; set < Sets(primitive); set++)
            {
                var (j, w) = (primitive.GetVertexAccessor($"JOINTS_{set}").AsVector4Array(), primitive.GetVertexAccessor($"WEIGHTS_{set}").AsVector4Array());
                for (var v = 0; v < Math.Min(count, Math.Min(j.Count, w.Count)); v++)
                {
                    var at = influences * (first + v) + 4 * set;
                    for (var k = 0; k < 4; k++)
                    {
                        var weight = w[v][k];
                        // Where nothing is carried, no joint is asked for.
                        (joints[at + k], weights[at + k]) = float.IsFinite(weight) && weight > 0 ? ((ushort)j[v][k], weight) : ((ushort)0, 0);
                    }
                }
            }
            for (var t = 0; t < primitive.MorphTargetsCount; t++)
            {
                var accessors = primitive.GetMorphTargetAccessors(t);
                if (accessors.TryGetValue("POSITION", out var moves))
                {
                    Triples(moves, targets[t].Positions, first, count);
                }
                if (accessors.TryGetValue("NORMAL", out var turns))
                {
                    Triples(turns, targets[t].Normals, first, count);
                }
                else if (moves is not null)
                {
                    hasTargetNormals = false;
                }
            }
            if (colors is not null)
            {
                // What has none is white.
                Array.Fill(colors, 1, 4 * first, 4 * count);
                var own4 = primitive.GetVertexAccessor("COLOR_0")?.AsColorArray();
                for (var v = 0; v < Math.Min(count, own4?.Count ?? 0); v++)
                {
                    Vector4.Clamp(own4![v], Vector4.Zero, new(1e6f)).CopyTo(colors, 4 * (first + v));
                }
            }
            first += count;
        }
        if (!AreFinite(positions) || !AreFinite(normals) || !AreFinite(texCoords) || !AreFinite(colors) || !Array.TrueForAll(targets, t => AreFinite(t.Positions) && AreFinite(t.Normals)))
        {
            throw new Refusal($"The mesh {name} holds numbers that are none (NaN or infinite): mend it where it comes from.");
        }
        var indices = new List<int>();
        var parts = new List<int>();
        var wrong = 0;
        first = 0;
        for (var i = 0; i < primitives.Count; i++)
        {
            parts.Add(indices.Count / 3);
            var (start, count) = isOurs ? (0, n) : (first, counts[i]);
            budget.Take(sizeof(int) * (primitives[i].IndexAccessor?.Count ?? (long)count));
            var own = Corners(primitives[i], count);
            indices.EnsureCapacity(indices.Count + own.Length);
            if (start == 0 && own.Length % 3 == 0 && !own.AsSpan().ContainsAnyExceptInRange(0, count - 1))
            {
                indices.AddRange(own);
                first += isOurs ? 0 : count;
                continue;
            }
            for (var t = 0; t + 2 < own.Length; t += 3)
            {
                if ((uint)own[t] >= count || (uint)own[t + 1] >= count || (uint)own[t + 2] >= count)
                {
                    wrong++;
                    continue;
                }
                indices.Add(start + own[t]);
                indices.Add(start + own[t + 1]);
                indices.Add(start + own[t + 2]);
            }
            first += isOurs ? 0 : count;
        }
        if (wrong > 0)
        {
            skipped.Add($"{wrong} triangles of the mesh {name} were left out: they refer to vertices that it does not have.");
        }
        if (indices.Count > 3 * AssetShape.MostTriangles)
        {
            throw new Refusal($"The mesh {name} has {indices.Count / 3} triangles, more than the {AssetShape.MostTriangles} that a shape can have: split it.");
        }
        int[] all = [.. indices];
        if (!hasNormals)
        {
            var corners = FlatCorners(all, parts, bare, n);
            if (corners.Count > Shape.MostVertices)
            {
                skipped.Add($"The mesh {name} is smooth: it has no normals, and with flat ones it would have more vertices than a shape can have.");
            }
            else
            {
                budget.Take(bytesOfVertex * corners.Count);
                T[] Taken<T>(T[] from, int each)
                {
                    var to = new T[each * corners.Count];
                    for (var v = 0; v < corners.Count; v++)
                    {
                        from.AsSpan(each * corners[v], each).CopyTo(to.AsSpan(each * v));
                    }
                    return to;
                }
                (positions, normals, joints, weights) = (Taken(positions, 3), Taken(normals, 3), Taken(joints, influences), Taken(weights, influences));
                (texCoords, colors) = (texCoords is null ? null : Taken(texCoords, 2), colors is null ? null : Taken(colors, 4));
                targets = [.. targets.Select(t => (Taken(t.Positions, 3), Taken(t.Normals, 3)))];
            }
            // What no other triangle shares is as flat as its own.
            var own = Normals.Smooth(positions, all);
            for (var v = 0; v < normals.Length; v += 3)
            {
                if (normals[v] == 0 && normals[v + 1] == 0 && normals[v + 2] == 0)
                {
                    own.AsSpan(v, 3).CopyTo(normals.AsSpan(v));
                }
            }
        }
        Normalize(normals);
        Even(weights, joints, influences);
        return new(
            new Mesh(positions, normals, all)
            {
                TexCoords = texCoords,
                Colors = colors,
                Parts = parts.Count == 0 ? [0] : [.. parts],
                Targets = [.. targets.Select(t => MorphTarget.Of(t.Positions, hasTargetNormals && hasNormals ? t.Normals : NormalsOf(positions, normals, t.Positions, all)))],
                Weights = influences > 0 ? new(influences, joints, weights) : null,
            },
            [.. primitives.Select(p => p.Material)]);
    }

    /// <summary>Gives every corner of some parts a vertex of its own.</summary>
    /// <param name="indices">Of all triangles; changed to the new vertices.</param>
    /// <param name="parts">Where each part begins.</param>
    /// <param name="bare">The parts to take apart.</param>
    /// <returns>For each new vertex, which it was: those of the other parts first, in their order.</returns>
    private static List<int> FlatCorners(int[] indices, List<int> parts, HashSet<int> bare, int vertices)
    {
        bool IsBare(int part) => bare.Contains(part);
        int End(int part) => part + 1 < parts.Count ? 3 * parts[part + 1] : indices.Length;
        var kept = new int[vertices];
        Array.Fill(kept, -1);
        for (var part = 0; part < parts.Count; part++)
        {
            for (var i = 3 * parts[part]; i < End(part) && !IsBare(part); i++)
            {
                kept[indices[i]] = 0;
            }
        }
        var corners = new List<int>(indices.Length);
        for (var v = 0; v < vertices; v++)
        {
            if (kept[v] == 0)
            {
                kept[v] = corners.Count;
                corners.Add(v);
            }
        }
        for (var part = 0; part < parts.Count; part++)
        {
            for (var i = 3 * parts[part]; i < End(part); i++)
            {
                if (!IsBare(part))
                {
                    indices[i] = kept[indices[i]];
                    continue;
                }
                corners.Add(indices[i]);
                indices[i] = corners.Count - 1;
            }
        }
        return corners;
    }

    /// <summary>The names of the targets of a mesh: glTF leaves them to its extras.</summary>
    internal static string[] TargetNames(SharpGLTF.Schema2.Mesh gltf, int count)
    {
        var names = gltf.Extras?["targetNames"] as System.Text.Json.Nodes.JsonArray;
        return [.. Enumerable.Range(0, count).Select(i => i < names?.Count && names[i] is System.Text.Json.Nodes.JsonValue value && value.TryGetValue(out string? text)
            ? text[..Math.Min(text.Length, 200)] : $"Target {i + 1}")];
    }

    private static bool AreFinite(ReadOnlySpan<float> numbers)
    {
        // What is finite is 0 times 0; the sum says so for all at once.
        var sum = 0f;
        foreach (var number in numbers)
        {
            sum += number * 0;
        }
        return sum == 0;
    }

    private static int Count(MeshPrimitive primitive, string name) =>
        primitive.GetVertexAccessor("POSITION")?.Count ?? throw new Refusal($"The mesh {name} has no positions: export it again from where it comes from.");

    /// <summary>The corners of all triangles, three each, as they stand in the file; strips and fans as glTF 2.0, section 3.7.2.1, takes them apart.</summary>
    private static int[] Corners(MeshPrimitive primitive, int vertices)
    {
        int[] list;
        if (primitive.IndexAccessor is { } accessor)
        {
            if (accessor is { Encoding: EncodingType.UNSIGNED_INT, IsSparse: false, SourceBufferView: { ByteStride: 0 or 4 } view })
            {
                list = MemoryMarshal.Cast<byte, int>(view.Content.AsSpan(accessor.ByteOffset, 4 * accessor.Count)).ToArray();
            }
            else
            {
                var source = accessor.AsIndicesArray();
                list = new int[source.Count];
                for (var i = 0; i < list.Length; i++)
                {
                    list[i] = (int)source[i];
                }
            }
        }
        else
        {
            list = [.. Enumerable.Range(0, vertices)];
        }
        if (primitive.DrawPrimitiveType == PrimitiveType.TRIANGLES)
        {
            return list;
        }
        var isFan = primitive.DrawPrimitiveType == PrimitiveType.TRIANGLE_FAN;
        var corners = new int[3 * Math.Max(0, list.Length - 2)];
        for (var i = 0; 3 * i < corners.Length; i++)
        {
            (corners[3 * i], corners[3 * i + 1], corners[3 * i + 2]) = isFan ? (list[i + 1], list[i + 2], list[0]) : (list[i], list[i + 1 + i % 2], list[i + 2 - i % 2]);
        }
        return corners;
    }

    private static int Sets(MeshPrimitive primitive)
    {
        var sets = 0;
        while (sets < 4 && primitive.GetVertexAccessor($"JOINTS_{sets}") is not null && primitive.GetVertexAccessor($"WEIGHTS_{sets}") is not null)
        {
            sets++;
        }
        return sets;
    }

    private static void Triples(Accessor accessor, float[] to, int first, int count)
    {
        var target = to.AsSpan(3 * first, 3 * count);
        // What lies there as floats is copied as it is.
        if (accessor.Encoding == EncodingType.FLOAT && !accessor.IsSparse && accessor.SourceBufferView is { ByteStride: 0 or 12 } view)
        {
            view.Content.AsSpan(accessor.ByteOffset, 12 * Math.Min(count, accessor.Count)).CopyTo(MemoryMarshal.AsBytes(target));
            return;
        }
        var source = accessor.AsVector3Array();
        for (var v = 0; v < Math.Min(count, source.Count); v++)
        {
            source[v].CopyTo(target[(3 * v)..]);
        }
    }

    private static void Normalize(float[] normals)
    {
        for (var v = 0; v < normals.Length; v += 3)
        {
            var n = new Vector3(normals[v], normals[v + 1], normals[v + 2]);
            var length = n.LengthSquared();
            if (Math.Abs(length - 1) > 1e-6f)
            {
                n = length > 0 ? Vector3.Normalize(n) : Vector3.UnitY;
                n.CopyTo(normals, v);
            }
        }
    }

    /// <summary>Makes the weights of each vertex add up to 1; one that nothing carries hangs on the first joint.</summary>
    private static void Even(float[] weights, ushort[] joints, int influences)
    {
        for (var v = 0; influences > 0 && v < weights.Length; v += influences)
        {
            var own = weights.AsSpan(v, influences);
            // A joint that is there twice is there once with both weights.
            for (var k = 1; k < influences; k++)
            {
                var same = joints.AsSpan(v, k).IndexOf(joints[v + k]);
                if (own[k] > 0 && same >= 0)
                {
                    own[same] += own[k];
                    (own[k], joints[v + k]) = (0, 0);
                }
            }
            double sum = 0;
            foreach (var w in own)
            {
                sum += w;
            }
            for (var k = 0; k < influences; k++)
            {
                own[k] = sum > 0 ? (float)(own[k] / sum) : k == 0 ? 1 : 0;
            }
        }
    }

    /// <summary>How normals turn towards a target: from the smooth ones of both.</summary>
    private static float[] NormalsOf(float[] positions, float[] normals, float[] moves, int[] indices)
    {
        var moved = positions.Zip(moves, (p, m) => p + m).ToArray();
        var (before, after) = (Normals.Smooth(positions, indices), Normals.Smooth(moved, indices));
        return [.. after.Zip(before, (a, b) => a - b)];
    }
}
