using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Names for people, and names that are free.</summary>
public static class Names
{
    /// <summary>“Buoy · Position Y”, for messages and the history.</summary>
    public static string Of(Shot shot, ChannelAddress address)
    {
        var owner = shot.FindNode(address.Owner)?.Name ?? shot.FindMaterial(address.Owner)?.Name ?? shot.FindOther(address.Owner)?.Name ?? address.Owner;
        var layer = address.Layer is { } id ? $" in {shot.FindLayer(id)?.Name ?? id}" : "";
        return $"{owner} · {shot.ChannelsOf(address.Owner).Find(address.Base.Path)?.Label ?? address.Path}{layer}";
    }

    /// <summary>The wanted name, or it with the first free number behind it; cut where it would be longer than a name can be.</summary>
    public static string Free(string wanted, Func<string, bool> taken) => Free(wanted, taken, 2, out _);

    private static string Free(string wanted, Func<string, bool> taken, int from, out int number)
    {
        number = from;
        if (!taken(wanted))
        {
            return wanted;
        }
        var stem = Stem(wanted);
        for (; ; number++)
        {
            var end = $" {number}";
            var length = Math.Min(stem.Length, ShotRules.MostNameLength - end.Length);
            // Not in the middle of a letter of two halves.
            var name = stem[..(char.IsHighSurrogate(stem[length - 1]) ? length - 1 : length)] + end;
            if (!taken(name))
            {
                return name;
            }
        }
    }

    // A name that is nothing but a number keeps it.
    private static string Stem(string name)
    {
        var stem = name.TrimEnd('0', '1', '2', '3', '4', '5', '6', '7', '8', '9').TrimEnd();
        return stem.Length == 0 ? name : stem;
    }

    /// <summary>Free names among the children of each node, for many at once: what has been given is taken.</summary>
    internal sealed class Siblings(Shot shot)
    {
        private readonly Dictionary<string, (HashSet<string> Names, Dictionary<string, int> Next)> _byParent = [];

        internal string Take(string? parent, string wanted)
        {
            if (!_byParent.TryGetValue(parent ?? "", out var taken))
            {
                taken = ([.. shot.Children(parent).Select(n => n.Name)], []);
                _byParent.Add(parent ?? "", taken);
            }
            var stem = Stem(wanted);
            var name = Free(wanted, taken.Names.Contains, taken.Next.GetValueOrDefault(stem, 2), out var number);
            if (name != wanted)
            {
                taken.Next[stem] = number + 1;
            }
            taken.Names.Add(name);
            return name;
        }
    }
}
