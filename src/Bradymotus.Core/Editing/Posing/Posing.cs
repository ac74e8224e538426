using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>From what a hand does in the view, or a number typed, to an edit.</summary>
public static class Posing
{
    /// <summary>
    /// What setting these values on this frame means: a key where automatic keying is on or a key stands there already;
    /// a static value where the channel has no curve; otherwise nothing yet, since the value is held until it is keyed.
    /// </summary>
    /// <param name="shot">The shot.</param>
    /// <param name="values">What shall be seen, by the addresses of channels below all layers.</param>
    /// <param name="frame">Where.</param>
    /// <param name="autoKey">Whether everything that is changed is keyed.</param>
    /// <param name="layer">The layer that takes the change; null is what lies below all layers.</param>
    /// <returns>The edit, or null when nothing is to be stored, and the values that wait to be keyed.</returns>
    /// <exception cref="Refusal">Nothing that is done to the layer is seen on the frame.</exception>
    public static (Edit? Edit, IReadOnlyList<ChannelValue> Waiting) Set(Shot shot, IReadOnlyList<ChannelValue> values, double frame, bool autoKey, string? layer = null)
    {
        var statics = new List<ChannelValue>();
        var keys = new List<ChannelValue>();
        var waiting = new List<ChannelValue>();
        foreach (var (asked, own) in LayerPosing.Solve(shot, values, frame, layer))
        {
            // What is locked stays where it is, whatever a hand does with the rest.
            var changes = own.Select(v => (Value: v, Channel: shot.Channel(v.Address)))
                .Where(c => !c.Channel.Locked && (c.Channel.Evaluate(frame) != c.Value.Value || IsFirst(shot, c.Value.Address))).ToList();
            // What is muted is as if it had no keys.
            bool IsKeyed((ChannelValue Value, Channel Channel) c) => !c.Channel.Muted && (autoKey || c.Channel.Curve?.KeyAt(frame) is not null);
            if (changes.Exists(c => !IsKeyed(c) && c.Channel.ActiveCurve is not null))
            {
                waiting.AddRange(asked);
                continue;
            }
            keys.AddRange(changes.Where(IsKeyed).Select(c => c.Value));
            statics.AddRange(changes.Where(c => !IsKeyed(c)).Select(c => c.Value));
        }
        Edit? edit = (keys.Count, statics.Count) switch
        {
            (0, 0) => null,
            (_, 0) => new SetKeys(frame, keys),
            (0, _) => new SetValues(statics),
            _ => new Batch($"Pose on frame {frame}", [new SetKeys(frame, keys), new SetValues(statics)]),
        };
        return (edit, waiting);
    }

    /// <summary>A number of at most four decimals where it is as good as one, so that a turn by 30° is 30 and not 29.99999999999999; else as it is.</summary>
    private static double Clean(double value, double tolerance)
    {
        var round = Math.Round(value, 4);
        return Math.Abs(value - round) <= tolerance ? round : value;
    }

    /// <summary>Whether a layer would take the place of a channel for the first time.</summary>
    private static bool IsFirst(Shot shot, ChannelAddress address) => address.Layer is { } layer && shot.FindLayer(layer) is { Mode: LayerMode.Override }
        && shot.SetChannels(address.Owner)?.ContainsKey(address.Path) != true;

    /// <summary>The values of a layer, or of the channels below all layers where it is null, of which what is asked for comes.</summary>
    /// <exception cref="Refusal">Nothing that is done to the layer is seen on the frame.</exception>
    public static IEnumerable<ChannelValue> InLayer(Shot shot, IReadOnlyList<ChannelValue> values, double frame, string? layer) =>
        values.Count == 0 ? [] : LayerPosing.Solve(shot, values, frame, layer).SelectMany(s => s.Own);

    /// <summary>The values of the transform channels with which a node stands at a place in the world. Only those that change are given.</summary>
    /// <param name="world">Where it shall stand; shear is left out.</param>
    /// <exception cref="Refusal">The parent is scaled to nothing.</exception>
    public static IReadOnlyList<ChannelValue> ToLocal(Shot shot, Node node, in Affine parentWorld, in Affine world, double frame) =>
        ToLocal(node, parentWorld, world, path => CompiledShot.ValueOf(shot, new(node.Id, path), frame));

    /// <summary>As above, with the values that stand now given by <paramref name="now"/>.</summary>
    /// <param name="near">The angles that the new ones shall be nearest to; null is those that stand now. A hand that drags gives the last ones, so that turns add up.</param>
    public static IReadOnlyList<ChannelValue> ToLocal(Node node, in Affine parentWorld, in Affine world, Func<string, double> now, Func<string, double>? near = null)
    {
        if (!(parentWorld * (node.Offset ?? Affine.Identity)).TryInvert(out var toParent))
        {
            throw new Refusal($"“{node.Name}” has a parent that is scaled to nothing: give that a scale first.");
        }
        Double3 Triple(string path) => new(now($"{path}.x"), now($"{path}.y"), now($"{path}.z"));
        var isQuaternion = node.RotationOrder == RotationOrder.Quaternion;
        var (move, size, pivot) = (Triple("transform.translate"), Triple("transform.scale"), Triple("transform.pivot"));
        var paths = RotationOrders.Paths(node.RotationOrder);
        var turn = paths.Select(now).ToArray();
        var local = toParent * world;
        var sign = new Double3(size.X < 0 ? -1 : 1, size.Y < 0 ? -1 : 1, size.Z < 0 ? -1 : 1);
        var scale = new Double3(local.X.Length * sign.X, local.Y.Length * sign.Y, local.Z.Length * sign.Z);
        var rotation = near is null ? turn : [.. paths.Select(near)];
        if (scale.X != 0 && scale.Y != 0 && scale.Z != 0)
        {
            var x = (local.X * (1 / scale.X)).Normalized();
            var z = Double3.Cross(x, local.Y * (1 / scale.Y)).Normalized();
            rotation = RotationOrders.From(new Affine(x, Double3.Cross(z, x), z, Double3.Zero), node.RotationOrder, rotation);
        }
        var origin = local.Origin - pivot + (local with { Origin = Double3.Zero }).Vector(pivot);

        var changes = new List<ChannelValue>();
        void Add(string path, double value, double old, double tolerance)
        {
            var much = tolerance * Math.Max(1, Math.Abs(old));
            if (Math.Abs(value - old) > much)
            {
                changes.Add(new(new(node.Id, path), Clean(value, much)));
            }
        }
        Add("transform.translate.x", origin.X, move.X, 1e-7);
        Add("transform.translate.y", origin.Y, move.Y, 1e-7);
        Add("transform.translate.z", origin.Z, move.Z, 1e-7);
        for (var i = 0; i < paths.Length; i++)
        {
            Add(paths[i], rotation[i], turn[i], isQuaternion ? 1e-7 : 1e-5);
        }
        Add("transform.scale.x", scale.X, size.X, 1e-6);
        Add("transform.scale.y", scale.Y, size.Y, 1e-6);
        Add("transform.scale.z", scale.Z, size.Z, 1e-6);
        return changes;
    }
}
