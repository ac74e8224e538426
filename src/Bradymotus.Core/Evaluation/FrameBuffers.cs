namespace Bradymotus.Core.Evaluation;

/// <summary>An evaluated frame as a graphics card takes it. The buffers keep their place while the number of nodes stays.</summary>
public sealed class FrameBuffers
{
    private FrameState? _state;
    private int _pass = -1;

    /// <summary>World matrices: sixteen numbers a node, column-major, in the order of evaluation.</summary>
    public float[] Matrices { get; private set; } = [];

    /// <summary>1 for each node that is seen.</summary>
    public byte[] Seen { get; private set; } = [];

    /// <summary>The version of each node's shape; 0 where it has none.</summary>
    public int[] MeshVersions { get; private set; } = [];

    /// <summary>World matrices of what is drawn once more, as <see cref="Matrices"/>.</summary>
    public float[] CopyMatrices { get; private set; } = [];

    /// <summary>
    /// For each copy: the node that it is of, the instance or repeater that draws it, the version of its shape, and its number among all copies,
    /// which may be more than those that are seen.
    /// </summary>
    public int[] CopyNodes { get; private set; } = [];

    /// <summary>Another number whenever the copies are others.</summary>
    public int CopyVersion { get; private set; }

    /// <summary>How many copies are seen.</summary>
    public int CopyCount { get; private set; }

    /// <summary>Takes over a state; of one that was taken over before, only what has changed since.</summary>
    public void Fill(FrameState state)
    {
        var count = state.Compiled.NodeCount;
        if (Seen.Length != count)
        {
            Matrices = new float[16 * count];
            Seen = new byte[count];
            MeshVersions = new int[count];
            _state = null;
        }
        var since = ReferenceEquals(_state, state) ? _pass : -1;
        if (state.Kept is { IsBuffered: true } kept)
        {
            kept.Matrices.CopyTo(Matrices, 0);
            kept.Seen.CopyTo(Seen, 0);
            kept.MeshVersions.CopyTo(MeshVersions, 0);
            foreach (var i in state.RebuiltMeshes)
            {
                MeshVersions[i] = state.Mesh(i)?.Version ?? 0;
            }
        }
        else if (since == state.Pass - 1)
        {
            foreach (var i in state.LastChanged)
            {
                Put(state, i);
            }
        }
        else
        {
            for (var i = 0; i < count; i++)
            {
                if (state.Changed[i] > since)
                {
                    Put(state, i);
                }
            }
        }
        if (state.Kept is { IsBuffered: false } fresh)
        {
            KeptFrame.Put(ref fresh.Matrices, Matrices);
            KeptFrame.Put(ref fresh.Seen, Seen);
            KeptFrame.Put(ref fresh.MeshVersions, MeshVersions);
            fresh.IsBuffered = true;
        }
        if (state.CopiesChanged > since)
        {
            PutCopies(state);
        }
        (_state, _pass) = (state, state.Pass);
    }

    private void PutCopies(FrameState state)
    {
        var copies = state.Copies;
        if (CopyNodes.Length < 4 * copies.Count)
        {
            var size = Math.Max(copies.Count, CopyNodes.Length / 2);
            (CopyMatrices, CopyNodes) = (new float[16 * size], new int[4 * size]);
        }
        CopyVersion++;
        CopyCount = 0;
        for (var i = 0; i < copies.Count; i++)
        {
            var copy = copies[i];
            if (!copy.Visible)
            {
                continue;
            }
            Put(copy.World, CopyMatrices.AsSpan(16 * CopyCount, 16));
            var n = CopyNodes.AsSpan(4 * CopyCount++, 4);
            (n[0], n[1], n[2], n[3]) = (copy.Source, copy.Owner, copy.State.Mesh(copy.Node)?.Version ?? 0, i);
        }
    }

    private void Put(FrameState state, int i)
    {
        Put(state.World[i], Matrices.AsSpan(16 * i, 16));
        Seen[i] = state.Visible[i] ? (byte)1 : (byte)0;
        MeshVersions[i] = state.Mesh(i)?.Version ?? 0;
    }

    private static void Put(in Numerics.Affine w, Span<float> m)
    {
        (m[0], m[1], m[2]) = ((float)w.X.X, (float)w.X.Y, (float)w.X.Z);
        (m[4], m[5], m[6]) = ((float)w.Y.X, (float)w.Y.Y, (float)w.Y.Z);
        (m[8], m[9], m[10]) = ((float)w.Z.X, (float)w.Z.Y, (float)w.Z.Z);
        (m[12], m[13], m[14], m[15]) = ((float)w.Origin.X, (float)w.Origin.Y, (float)w.Origin.Z, 1);
    }
}
