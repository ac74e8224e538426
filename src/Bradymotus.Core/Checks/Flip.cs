using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>Euler angles that jump from one frame to the next while the orientation does not.</summary>
internal static class Flip
{
    private const string Path = "transform.rotate.";

    internal static IEnumerable<Finding> Of(CheckedShot shot, Node node)
    {
        var keyed = shot.ByOwner[node.Id].Where(c => c.Address.Path.StartsWith(Path, StringComparison.Ordinal)).ToList();
        if (keyed.Count == 0 || node.RotationOrder == RotationOrder.Quaternion)
        {
            yield break;
        }
        double[][] angles = [.. "xyz".Select(a => shot.Values(new ChannelAddress(node.Id, Path + a)))];
        Double3 At(int i) => new(angles[0][i], angles[1][i], angles[2][i]);
        for (var i = 1; i < shot.Count; i++)
        {
            if (!Jumps(At(i - 1), At(i)) || Turn(At(i - 1), At(i), node.RotationOrder) > 40)
            {
                continue;
            }
            var first = i;
            while (i + 1 < shot.Count && Jumps(At(i), At(i + 1)))
            {
                i++;
            }
            yield return new Finding(FindingKind.Flip, [node.Id], [.. keyed.Select(c => c.Address.ToString())], shot.First + first - 1, shot.First + i,
                $"The angles of “{node.Name}” jump between frames {shot.First + first - 1} and {shot.First + first}, though it hardly turns: what lies between them, blur and blends, goes the long way round.",
                "Unroll the angles: each frame gets those nearest to the frame before.")
            { Fix = new UnrollRotations([node.Id]) };
        }
    }

    private static bool Jumps(Double3 a, Double3 b) => Math.Abs(b.X - a.X) > 120 || Math.Abs(b.Y - a.Y) > 120 || Math.Abs(b.Z - a.Z) > 120;

    /// <summary>The angle between two orientations, in degrees.</summary>
    private static double Turn(Double3 a, Double3 b, RotationOrder order)
    {
        var (p, q) = (Affine.Rotation(a, order), Affine.Rotation(b, order));
        var trace = Double3.Dot(p.X, q.X) + Double3.Dot(p.Y, q.Y) + Double3.Dot(p.Z, q.Z);
        return Math.Acos(Math.Clamp((trace - 1) / 2, -1, 1)) * (180 / Math.PI);
    }
}
