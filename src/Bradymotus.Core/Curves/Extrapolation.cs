using System.Text.Json.Serialization;

namespace Bradymotus.Core.Curves;

/// <summary>What a curve does before its first or after its last key.</summary>
/// <param name="Count">Passes beyond the keys, then hold; 0 is for ever. Only for the three that repeat.</param>
/// <param name="Until">The frame up to which it goes on so (before the keys: down to which), then hold; null is as far as anybody looks.</param>
public sealed record Extrapolation(ExtrapolationKind Kind = ExtrapolationKind.Hold, int Count = 0, double? Until = null)
{
    /// <summary>The value of the end key, for ever.</summary>
    public static Extrapolation Hold { get; } = new();
}

/// <summary>The ways to go on.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<ExtrapolationKind>))]
public enum ExtrapolationKind
{
    /// <summary>The value of the end key.</summary>
    Hold,

    /// <summary>Straight on along the slope at the end.</summary>
    Linear,

    /// <summary>The keys again from the start; period: first key to last key.</summary>
    Loop,

    /// <summary>The keys again, each pass starting where the last one ended.</summary>
    LoopOffset,

    /// <summary>Back and forth.</summary>
    PingPong,
}
