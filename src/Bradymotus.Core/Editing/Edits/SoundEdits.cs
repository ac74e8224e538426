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
        var sound = shot.FindSound(Sound.Id) is { } old ? Sound with { Channels = old.Channels } : Sound;
        return shot with { Sounds = shot.Sounds.With(sound, s => s.Id) };
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
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot with { Sounds = shot.Sounds.Without(Ids, s => s.Id, "sound") };

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove {(Ids.Count == 1 ? $"the sound {before.FindSound(Ids[0])?.Name}" : $"{Ids.Count} sounds")}";
}
