using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Adds a sound, or changes the one that has its id; the level of that stays.</summary>
public sealed record PutSound(Sound Sound) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        if (Sound is null)
        {
            throw new Refusal("A sound is missing: give it an id, a name and its asset.");
        }
        return shot.FindSound(Sound.Id) is { } old
            ? shot with { Sounds = shot.Sounds.Replace(old, Sound with { Channels = old.Channels }) }
            : shot with { Sounds = shot.Sounds.Add(Sound) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => before.FindSound(Sound.Id) is not { } old ? $"Add the sound {Sound.Name}"
        : old.Start != Sound.Start ? $"Move the sound {old.Name}"
        : old.Muted != Sound.Muted ? $"{(Sound.Muted ? "Mute" : "Hear")} the sound {old.Name}"
        : $"Change the sound {old.Name}";
}

/// <summary>Removes sounds with their levels.</summary>
public sealed record RemoveSounds(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        if (Ids.FirstOrDefault(id => shot.FindSound(id) is null) is { } missing)
        {
            throw new Refusal($"There is no sound “{missing}” in the shot: it may have been removed.");
        }
        return shot with { Sounds = shot.Sounds.RemoveAll(s => Ids.Contains(s.Id)) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove {(Ids.Count == 1 ? $"the sound {before.FindSound(Ids[0])?.Name}" : $"{Ids.Count} sounds")}";
}
