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
        if (since == state.Pass - 1)
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
        (_state, _pass) = (state, state.Pass);
    }

    private void Put(FrameState state, int i)
    {
        var w = state.World[i];
        var m = Matrices.AsSpan(16 * i, 16);
        (m[0], m[1], m[2]) = ((float)w.X.X, (float)w.X.Y, (float)w.X.Z);
        (m[4], m[5], m[6]) = ((float)w.Y.X, (float)w.Y.Y, (float)w.Y.Z);
        (m[8], m[9], m[10]) = ((float)w.Z.X, (float)w.Z.Y, (float)w.Z.Z);
        (m[12], m[13], m[14], m[15]) = ((float)w.Origin.X, (float)w.Origin.Y, (float)w.Origin.Z, 1);
        Seen[i] = state.Visible[i] ? (byte)1 : (byte)0;
        MeshVersions[i] = state.Mesh(i)?.Version ?? 0;
    }
}
