using System.Collections.Immutable;

namespace Bradymotus.Core.Scene;

/// <summary>A sound that is heard with the shot: an asset beside it, kept as FLAC. How loud it is is its channel <c>level</c>.</summary>
/// <param name="Id">Unique in the shot among nodes, materials, layers and sounds; never changes.</param>
/// <param name="Name">For people: the file that it came from, at first.</param>
/// <param name="Asset">The SHA-256 of its bytes, in lower-case hexadecimal digits.</param>
/// <param name="Seconds">How long it is.</param>
/// <param name="Start">The frame on which it begins; may lie before the shot.</param>
/// <param name="Muted">It is not heard, nor does it go into films.</param>
/// <param name="Channels">Its channels that somebody has set.</param>
public sealed record Sound(
    string Id, string Name, string Asset, double Seconds, double Start = 0, bool Muted = false, ImmutableSortedDictionary<string, Channel>? Channels = null) : IChannelOwner
{
    /// <summary>The longest sound, in seconds.</summary>
    public const double MostSeconds = 1800;

    /// <summary>The most sounds of a shot.</summary>
    public const int Most = 32;

    /// <summary>The path of the channel that says how loud it is: 1 as it is, 0 not at all.</summary>
    public const string Level = "level";

    ChannelList IChannelOwner.List => ChannelCatalog.Sound;
}

/// <summary>What has channels and is neither a node nor a material.</summary>
public interface IChannelOwner
{
    /// <summary>Unique in the shot; the owner of its channels' addresses.</summary>
    string Id { get; }

    /// <summary>For people.</summary>
    string Name { get; }

    /// <summary>The channels that somebody has set, by path.</summary>
    ImmutableSortedDictionary<string, Channel>? Channels { get; }

    /// <summary>What channels it has.</summary>
    ChannelList List { get; }
}
