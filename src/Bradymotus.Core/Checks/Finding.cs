using System.Text.Json.Serialization;
using Bradymotus.Core.Editing;

namespace Bradymotus.Core.Checks;

/// <summary>Something in the motion that is probably not meant.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Nodes">The ids of the objects that it is about.</param>
/// <param name="Channels">The addresses of the channels that it is about, as <c>id/path</c>.</param>
/// <param name="First">The frame where it begins, of the shot's range.</param>
/// <param name="Last">The frame where it ends.</param>
/// <param name="Sentence">What is wrong, for people.</param>
/// <param name="Mend">What would mend it, for people; null where a person has to.</param>
public sealed record Finding(FindingKind Kind, string[] Nodes, string[] Channels, int First, int Last, string Sentence,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] string? Mend)
{
    /// <summary>The change that mends it; null where there is none.</summary>
    /// <exception cref="Refusal">There is none after all: it is worked out when it is asked for, where that takes long.</exception>
    [JsonIgnore]
    public Edit? Fix
    {
        get => field ??= FindFix?.Invoke();
        init;
    }

    /// <summary>Works out the change that mends it.</summary>
    [JsonIgnore]
    internal Func<Edit>? FindFix { get; init; }
}

/// <summary>What is wrong.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<FindingKind>))]
public enum FindingKind
{
    /// <summary>What repeats jumps in value or speed where the passes meet.</summary>
    LoopSeam,

    /// <summary>The playback range of something that repeats shows the same frame twice.</summary>
    DoubledFrame,

    /// <summary>A slow change all the way to a key, where a hold before a sudden move is missing.</summary>
    Drift,

    /// <summary>Two surfaces pass through each other.</summary>
    Contact,

    /// <summary>What rests on another moves along it without rolling.</summary>
    Slide,

    /// <summary>A curve leaves the range of two keys, at a contact.</summary>
    Overshoot,

    /// <summary>Uneven speed of what turns or travels round and round.</summary>
    Spacing,

    /// <summary>A corner in an arc without a contact.</summary>
    Kink,

    /// <summary>A squash whose three scales do not multiply to 1.</summary>
    Volume,

    /// <summary>Heights and times that do not fit one gravity.</summary>
    Bounce,

    /// <summary>Euler angles that jump while the orientation does not.</summary>
    Flip,

    /// <summary>Keys without which nothing changes.</summary>
    IdleKeys,
}
