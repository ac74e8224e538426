using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>
/// Objects that are often needed together, under a name. It changes nothing of the picture. An object may be in many sets; one that has been removed
/// is passed by, and is in it again when it is brought back.
/// </summary>
/// <param name="Id">Its own among the sets.</param>
/// <param name="Name">What it is called.</param>
/// <param name="Nodes">The ids of the objects, in the order in which they were taken.</param>
public sealed record ObjectSet(string Id, string Name, ImmutableArray<string> Nodes)
{
    /// <summary>So many sets a shot holds at most.</summary>
    public const int Most = 500;

    /// <summary>Refuses what cannot be a set.</summary>
    /// <exception cref="Refusal">It has no id, no name, no objects, or too much of them.</exception>
    public void Validate()
    {
        ShotRules.ValidateName(Name, "set");
        if (string.IsNullOrEmpty(Id) || Id.Length > ShotRules.MostNameLength)
        {
            throw new Refusal($"The set “{Name}” has no id, or one that is too long: give it one of {ShotRules.MostNameLength} letters at most.");
        }
        if (Nodes.IsDefaultOrEmpty || Nodes.Length > ShotRules.MostNodes || Nodes.Any(string.IsNullOrEmpty))
        {
            throw new Refusal($"The set “{Name}” has no objects, or too many: select from one to {ShotRules.MostNodes}.");
        }
        if (Nodes.Distinct().Count() < Nodes.Length)
        {
            throw new Refusal($"The set “{Name}” holds an object twice: name each once.");
        }
    }
}
