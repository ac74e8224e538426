using System.Globalization;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A shot that is being checked: its curves, and what its channels and objects do on the whole frames of its range. Each is worked out when it is first asked for.</summary>
internal sealed class CheckedShot
{
    /// <summary>Of a longer shot the first frames are looked at.</summary>
    private const int MostFrames = 20_000;

    private readonly Dictionary<ChannelAddress, double[]> _values = [];
    private readonly Dictionary<string, Double3[]> _paths = [];

    internal CheckedShot(CompiledShot compiled, ShotAssets? assets)
    {
        var shot = compiled.Shot;
        (Shot, Assets, Compiled) = (shot, assets, compiled);
        First = shot.Range.First;
        Last = (int)Math.Min(shot.Range.Last, (long)First + MostFrames - 1);
        Contacts = new ContactMap(this);
    }

    /// <summary>Finds the curves, giving way now and then. Has to be gone through before anything is asked.</summary>
    internal IEnumerable<bool> Read()
    {
        var curves = new List<KeyedChannel>();
        var followed = new List<KeyedChannel>();
        var layers = CompiledLayer.Of(Shot.Layers, []);
        var touched = new HashSet<string>();
        var count = 0;
        foreach (var (address, channel, isOwn) in Shot.AllSetChannels().Select(c => (c.Address, c.Channel, true)).Concat(Followed()))
        {
            if (layers.Length > 0 && address.Layer is { } id && Array.Exists(layers, l => l.Layer.Id == id))
            {
                touched.Add(Turned(address));
            }
            if (channel.ActiveCurve is { } curve)
            {
                (isOwn ? curves : followed).Add(new(address, Shot.Spec(address), curve, NameOf(address.Owner), IsActive(layers, address)));
            }
            if (++count % 50 == 0)
            {
                yield return true;
            }
        }
        Curves = curves;
        yield return true;
        var active = curves.Concat(followed).Where(c => c.IsActive && Shot.FindLayer(c.Address.Owner) is null);
        Seen = (layers.Length == 0 ? active.Select(c => new SeenChannel(Compiled, [c], [], false)) : Layered([.. active], layers, touched)).ToLookup(c => c.Address.Owner);
        yield return true;
    }

    /// <summary>The channels that followers have of those that they follow, by addresses of their own: what mends one there leaves the followed alone.</summary>
    private IEnumerable<(ChannelAddress Address, Channel Channel, bool IsOwn)> Followed() =>
        from node in Shot.Nodes
        where node.Follows is not null
        from channel in Shot.ChannelsWithFollowed(node)!
        where node.Channels?.ContainsKey(channel.Key) is not true
        select (new ChannelAddress(node.Id, channel.Key), channel.Value, false);

    /// <summary>Those that a node follows, the nearest first.</summary>
    internal IEnumerable<Node> Leaders(Node node)
    {
        for (var leader = Shot.FindNode(node.Follows); leader is not null; leader = Shot.FindNode(leader.Follows))
        {
            yield return leader;
        }
    }

    private IEnumerable<SeenChannel> Layered(List<KeyedChannel> curves, CompiledLayer[] layers, HashSet<string> touched)
    {
        var places = layers.Select((l, i) => (l.Layer.Id, i + 1)).ToDictionary();
        var together = curves.ToLookup(c => Turned(c.Address));
        foreach (var channel in curves.GroupBy(c => c.Address.Base))
        {
            var turned = Turned(channel.Key);
            yield return new(Compiled, [.. channel.OrderBy(c => c.Address.Layer is { } id ? places[id] : 0)], together[turned], touched.Contains(turned));
        }
    }

    /// <summary>The channel, or the three or four that are turned together with it.</summary>
    private static string Turned(ChannelAddress address)
    {
        var path = address.Base.Path;
        foreach (var turn in (string[])["transform.rotate.", "transform.quaternion."])
        {
            if (path.StartsWith(turn, StringComparison.Ordinal))
            {
                path = turn;
            }
        }
        return $"{address.Owner}/{path}";
    }

    /// <summary>Whether what a curve says can be seen: its layer counts, and none above takes its place.</summary>
    private bool IsActive(CompiledLayer[] layers, ChannelAddress address)
    {
        var own = -1;
        if (address.Layer is { } id && ((own = Array.FindIndex(layers, l => l.Layer.Id == id)) < 0 || layers[own] is { Weight: null } none && none.WeightAt(0) == 0))
        {
            return false;
        }
        if (layers.Length == 0 || (Shot.FindNode(address.Owner) is { } node ? Shot.ChannelsWithFollowed(node) : Shot.SetChannels(address.Owner)) is not { } set)
        {
            return true;
        }
        return !layers.Skip(own + 1).Any(l => l is { IsOverride: true, Weight: null } && l.WeightAt(0) == 1 && set.ContainsKey(address.Base.In(l.Layer.Id).Path));
    }

    internal Shot Shot { get; }

    internal ShotAssets? Assets { get; }

    internal CompiledShot Compiled { get; }

    internal int First { get; }

    internal int Last { get; }

    internal int Count => Last - First + 1;

    /// <summary>All curves, those in layers among them.</summary>
    internal IReadOnlyList<KeyedChannel> Curves { get; private set; } = [];

    /// <summary>By the id of their owner, the channels that a curve moves, of its own or of what it follows.</summary>
    internal ILookup<string, SeenChannel> Seen { get; private set; } = Array.Empty<SeenChannel>().ToLookup(c => c.Address.Owner);

    /// <summary>Where objects touch or pass through each other; empty until it has been worked out.</summary>
    internal ContactMap Contacts { get; }

    internal string NameOf(string owner) => Shot.FindNode(owner)?.Name ?? Shot.FindMaterial(owner)?.Name ?? Shot.FindOther(owner)?.Name ?? (owner == Shot.WorldOwner ? "Sky" : owner);

    /// <summary>A channel on each frame of the range.</summary>
    internal double[] Values(ChannelAddress address)
    {
        if (!_values.TryGetValue(address, out var values))
        {
            values = Values(address, First, Count);
            _values.Add(address, values);
        }
        return values;
    }

    /// <summary>A channel on frames in a row.</summary>
    internal double[] Values(ChannelAddress address, double first, int count)
    {
        var values = new double[count];
        Compiled.Sample(address, first, 1, values);
        return values;
    }

    /// <summary>A channel on any frame, with all layers.</summary>
    internal double At(ChannelAddress address, double frame) => Values(address, frame, 1)[0];

    /// <summary>The way of an object's pivot through the world, a point for each frame of the range.</summary>
    internal Double3[] Path(string node)
    {
        if (!_paths.TryGetValue(node, out var path))
        {
            path = Compiled.MotionPath(node, First, Last);
            _paths.Add(node, path);
        }
        return path;
    }

    /// <summary>The nearest whole frame of the range.</summary>
    internal int Frame(double frame) => (int)Math.Clamp(Math.Round(frame), First, Last);

    /// <summary>Those of an owner's channels that a curve moves, of one family.</summary>
    /// <param name="group">How their paths begin.</param>
    internal List<SeenChannel> Moved(string owner, string group) => [.. Seen[owner].Where(c => c.Address.Path.StartsWith(group, StringComparison.Ordinal))];

    /// <summary>“frame 4” or “frames 4 to 9”.</summary>
    internal static string Frames(int first, int last) => first == last ? $"frame {first}" : $"frames {first} to {last}";

    /// <summary>A number for people: three figures that matter.</summary>
    internal static string Number(double value)
    {
        if (value == 0 || !double.IsFinite(value))
        {
            return value.ToString(CultureInfo.InvariantCulture);
        }
        var digits = Math.Clamp(2 - (int)Math.Floor(Math.Log10(Math.Abs(value))), 0, 8);
        return Math.Round(value, digits).ToString("0.########", CultureInfo.InvariantCulture);
    }

    /// <summary>“Buoy” Position Y.</summary>
    internal static string Name(KeyedChannel channel) => $"{channel.Spec.Label} of “{channel.Owner}”";

    internal static string Name(SeenChannel channel) => Name(channel.Parts[0]);

    internal Finding Found(FindingKind kind, KeyedChannel channel, double first, double last, string sentence, string? mend = null, Edit? fix = null) =>
        new(kind, Shot.FindNode(channel.Address.Owner) is null ? [] : [channel.Address.Owner], [channel.Address.ToString()], Frame(first), Frame(last), sentence, mend) { Fix = fix };

    /// <summary>The least and the greatest of some values.</summary>
    internal static (double Low, double High) Span(ReadOnlySpan<double> values)
    {
        var (low, high) = (double.PositiveInfinity, double.NegativeInfinity);
        foreach (var v in values)
        {
            (low, high) = (Math.Min(low, v), Math.Max(high, v));
        }
        return (low, high);
    }
}
