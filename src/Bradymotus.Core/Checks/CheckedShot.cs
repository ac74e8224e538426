using System.Globalization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Geometry;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Checks;

/// <summary>A channel with a curve.</summary>
internal sealed record KeyedChannel(ChannelAddress Address, ChannelSpec Spec, Curve Curve, string Owner);

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

    /// <summary>Finds the channels that have curves, giving way now and then. Has to be gone through before anything is asked.</summary>
    internal IEnumerable<bool> Read()
    {
        var (channels, layered) = (new List<KeyedChannel>(), new List<KeyedChannel>());
        var count = 0;
        // What a layer touches does not do what its own curve says, nor do the two that belong to it.
        static (string, string) Group(ChannelAddress a) => (a.Owner, a.Base.Path[..Math.Max(0, a.Base.Path.LastIndexOf('.'))]);
        var touched = Shot.Layers.IsEmpty ? [] : Shot.AllSetChannels().Where(c => c.Address.Layer is not null).Select(c => Group(c.Address)).ToHashSet();
        foreach (var (address, channel) in Shot.AllSetChannels())
        {
            if (channel.Heard is { } curve)
            {
                (touched.Contains(Group(address)) ? layered : channels).Add(new(address, Shot.Spec(address), curve, NameOf(address.Owner)));
            }
            if (++count % 500 == 0)
            {
                yield return true;
            }
        }
        (Channels, Layered) = (channels, layered);
        ByOwner = channels.ToLookup(c => c.Address.Owner);
    }

    internal Shot Shot { get; }

    internal ShotAssets? Assets { get; }

    internal CompiledShot Compiled { get; }

    internal int First { get; }

    internal int Last { get; }

    internal int Count => Last - First + 1;

    /// <summary>The channels with curves that do what their curve says.</summary>
    internal IReadOnlyList<KeyedChannel> Channels { get; private set; } = [];

    /// <summary>The channels with curves that are in a layer, or have one laid over them: only the curves themselves can be looked at.</summary>
    internal IReadOnlyList<KeyedChannel> Layered { get; private set; } = [];

    internal ILookup<string, KeyedChannel> ByOwner { get; private set; } = Array.Empty<KeyedChannel>().ToLookup(c => c.Address.Owner);

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
    internal double[] Values(ChannelAddress address, int first, int count)
    {
        var values = new double[count];
        Compiled.Sample(address, first, 1, values);
        return values;
    }

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

    /// <summary>One of three numbers of an owner that belong together, with its curve; null where it has none.</summary>
    internal KeyedChannel? Keyed(string owner, string path) => ByOwner[owner].FirstOrDefault(c => c.Address.Path == path);

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
