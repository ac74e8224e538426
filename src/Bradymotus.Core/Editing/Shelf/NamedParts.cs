using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Something of a channel that is taken along by the name of its object, so that it fits objects of other shots too.</summary>
public interface INamedPart
{
    /// <summary>Of the object.</summary>
    string Name { get; }

    /// <summary>Of the channel, without a layer.</summary>
    string Path { get; }
}

/// <summary>Where something fits that was taken from one part.</summary>
/// <param name="Address">Of the channel that gets it, in the layer that was asked for.</param>
/// <param name="Sign">−1 where it turns round by being mirrored.</param>
public readonly record struct Fit<T>(ChannelAddress Address, T Part, double Sign);

/// <summary>Finds the channels that named parts are for.</summary>
public static class NamedParts
{
    /// <summary>Where parts fit: those of one object on each of the targets, those of several on the objects of the same names. Every channel gets one at the most.</summary>
    /// <param name="targets">The ids of the objects that they are for, with what hangs below them; none is all of the shot.</param>
    /// <param name="mirror">Left for right, by the names of objects and channels.</param>
    /// <param name="layer">The id of the layer that they go into; null is below all layers.</param>
    public static IEnumerable<Fit<T>> Fits<T>(this IReadOnlyList<T> parts, Shot shot, IReadOnlyList<string> targets, bool mirror, string? layer)
        where T : INamedPart => parts.AllFits(shot, targets, mirror, layer).DistinctBy(f => f.Address);

    private static IEnumerable<Fit<T>> AllFits<T>(this IReadOnlyList<T> parts, Shot shot, IReadOnlyList<string> targets, bool mirror, string? layer)
        where T : INamedPart
    {
        var isOne = parts.All(p => p.Name == parts[0].Name);
        var family = targets.Count == 0 ? null : shot.Descendants(targets);
        var byName = shot.Nodes.Where(n => family?.Contains(n.Id) ?? true).GroupBy(n => n.Name).ToDictionary(g => g.Key, g => g.First());
        foreach (var part in parts)
        {
            var name = mirror ? Mirroring.OtherName(part.Name) ?? part.Name : part.Name;
            var path = mirror ? Mirroring.OtherName(part.Path) ?? part.Path : part.Path;
            IEnumerable<Node?> nodes = isOne && targets.Count > 0 ? targets.Select(shot.FindNode) : [byName.GetValueOrDefault(name)];
            foreach (var node in nodes)
            {
                if (node is not null && ChannelCatalog.For(node).Find(path) is not null)
                {
                    var address = new ChannelAddress(node.Id, path).In(layer);
                    if (!shot.Channel(address).Locked)
                    {
                        yield return new(address, part, mirror ? Mirroring.Sign(path) : 1);
                    }
                }
            }
        }
    }

    /// <summary>What fits and what does not, a sentence each; the first says how much fits.</summary>
    public static IReadOnlyList<string> Report<T>(this IReadOnlyList<T> parts, IReadOnlyList<Fit<T>> fits)
        where T : INamedPart
    {
        var left = parts.Except(fits.Select(f => f.Part)).GroupBy(p => p.Name).ToList();
        return
        [
            $"{Count(fits.Count, "channel")} of {Count(fits.Select(f => f.Address.Owner).Distinct().Count(), "object")}",
            .. left.Select(g => $"“{g.Key}”: {string.Join(", ", g.Select(p => p.Path).Take(6))}{(g.Count() > 6 ? $" and {g.Count() - 6} more" : "")} found no place"),
        ];
    }

    /// <summary>Why nothing fits, and what to do.</summary>
    /// <param name="what">animation or pose.</param>
    public static Refusal NoneFits<T>(this IReadOnlyList<T> parts, string what)
        where T : INamedPart
    {
        var names = parts.Select(p => p.Name).Distinct().ToList();
        return new(names.Count == 1
            ? $"Nothing of the {what} of “{names[0]}” fits here: select the object that shall have it."
            : $"Nothing of this {what} fits here: it is of {string.Join(", ", names.Take(4).Select(n => $"“{n}”"))}{(names.Count > 4 ? $" and {names.Count - 4} more" : "")}; select what holds objects of these names.");
    }

    private static string Count(int count, string one) => count == 1 ? $"1 {one}" : $"{count} {one}s";
}
