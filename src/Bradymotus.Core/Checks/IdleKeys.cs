using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;

namespace Bradymotus.Core.Checks;

/// <summary>Keys without which nothing changes.</summary>
internal static class IdleKeys
{
    internal static IEnumerable<Finding> Of(CheckedShot shot, KeyedChannel channel)
    {
        // The four numbers of a quaternion go from key to key together: none can lose a key alone.
        var idle = channel.Address.Path.StartsWith("transform.quaternion", StringComparison.Ordinal) ? [] : CurveTools.IdleKeys(channel.Curve);
        if (idle.Count == 0)
        {
            yield break;
        }
        var keys = channel.Curve.Keys;
        var what = idle.Count == keys.Length
            ? $"{CheckedShot.Name(channel)} never moves: its {keys.Length} keys do nothing."
            : idle.Count == 1
                ? $"The key on frame {CurveRules.Number(keys[idle[0]].Frame)} of {CheckedShot.Name(channel)} does nothing: without it the curve is the same."
                : $"{idle.Count} keys of {CheckedShot.Name(channel)} do nothing: without them the curve is the same.";
        yield return shot.Found(FindingKind.IdleKeys, channel, keys[idle[0]].Frame, keys[idle[^1]].Frame, what, "Remove them: the motion stays as it is.",
            new RemoveKeys([.. idle.Select(i => new KeyAddress(channel.Address, keys[i].Frame))]));
    }
}
