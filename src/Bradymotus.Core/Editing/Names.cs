using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Names for people, and names that are free.</summary>
public static class Names
{
    /// <summary>“Buoy · Move Y”, for messages and the history.</summary>
    public static string Of(Shot shot, ChannelAddress address)
    {
        var owner = shot.FindNode(address.Owner)?.Name ?? shot.FindMaterial(address.Owner)?.Name ?? address.Owner;
        return $"{owner} · {shot.ChannelsOf(address.Owner).FirstOrDefault(s => s.Path == address.Path)?.Label ?? address.Path}";
    }

    /// <summary>The wanted name, or it with the first free number behind it.</summary>
    public static string Free(string wanted, Func<string, bool> taken)
    {
        if (!taken(wanted))
        {
            return wanted;
        }
        var stem = wanted.TrimEnd('0', '1', '2', '3', '4', '5', '6', '7', '8', '9').TrimEnd();
        for (var n = 2; ; n++)
        {
            var name = $"{stem} {n}";
            if (!taken(name))
            {
                return name;
            }
        }
    }

    /// <exception cref="Refusal">A sibling has this name.</exception>
    internal static void RefuseTaken(Shot shot, string? parent, string name, string except)
    {
        if (shot.Nodes.Any(n => n.Parent == parent && n.Name == name && n.Id != except))
        {
            throw new Refusal($"There is already an object named “{name}” there: choose another name.");
        }
    }
}
