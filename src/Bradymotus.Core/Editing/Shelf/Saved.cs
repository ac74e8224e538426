using System.Collections.Immutable;
using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>A pose or a motion that is kept apart from any shot, to be put onto objects of these names, or onto others.</summary>
/// <param name="Name">For people.</param>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(SavedPose), "pose")]
[JsonDerivedType(typeof(SavedMotion), "motion")]
public abstract record Saved(string Name)
{
    /// <summary>So many channels at the most.</summary>
    public const int MostParts = 50_000;

    /// <summary>What is in it, by the names of objects.</summary>
    protected abstract IReadOnlyList<INamedPart> NamedParts { get; }

    /// <summary>The names of the objects that it was taken from, each once.</summary>
    [JsonIgnore]
    public IReadOnlyList<string> Objects => [.. NamedParts.Select(p => p.Name).Distinct()];

    /// <summary>How many channels there are in it.</summary>
    [JsonIgnore]
    public int Count => NamedParts.Count;

    /// <exception cref="Refusal">It breaks a rule; the message says which and where.</exception>
    public virtual void Validate()
    {
        ShotRules.ValidateName(Name, "saved pose or motion");
        if (NamedParts.Count is 0 or > MostParts)
        {
            throw new Refusal($"“{Name}” has {NamedParts.Count} channels: a saved pose or motion has 1 to {MostParts}.");
        }
        foreach (var part in NamedParts)
        {
            ShotRules.ValidateName(part.Name, $"object in “{Name}”");
            ShotRules.ValidateName(part.Path, $"channel of “{part.Name}” in “{Name}”");
        }
    }

    private static IEnumerable<Node> Family(Shot shot, IReadOnlyList<string> ids)
    {
        var family = shot.Descendants(ids);
        return shot.Nodes.Where(n => family.Contains(n.Id));
    }

    /// <summary>The curves of objects in a layer, with what hangs below them.</summary>
    /// <param name="first">Keys before this frame are left out.</param>
    /// <param name="last">Keys after this frame are left out.</param>
    /// <exception cref="Refusal">They have no keys there.</exception>
    public static SavedMotion MotionOf(Shot shot, IReadOnlyList<string> ids, string? layer, double first = double.NegativeInfinity, double last = double.PositiveInfinity)
    {
        var parts = ImmutableArray.CreateBuilder<MotionPart>();
        foreach (var node in Family(shot, ids))
        {
            foreach (var (path, channel) in node.Channels ?? ImmutableSortedDictionary<string, Channel>.Empty)
            {
                var address = new ChannelAddress(node.Id, path);
                ImmutableArray<Key> keys = channel.ActiveCurve is { } c && address.Layer == layer ? [.. c.Keys.Where(k => k.Frame >= first && k.Frame <= last)] : [];
                if (!keys.IsEmpty)
                {
                    parts.Add(new(node.Name, address.Base.Path, keys.Length == channel.Curve!.Keys.Length ? channel.Curve : channel.Curve.WithKeys(keys)));
                }
            }
        }
        return parts.Count == 0
            ? throw new Refusal("There is no animation to copy: select objects that have keys.")
            : new(shot.Node(ids[0]).Name, parts.ToImmutable(), parts.Min(p => p.Curve.Keys[0].Frame));
    }

    /// <summary>
    /// What objects have on the evaluated frame, with what hangs below them: where each stands, and of the rest what was ever set.
    /// </summary>
    /// <exception cref="Refusal">There are none.</exception>
    public static SavedPose PoseOf(FrameState state, IReadOnlyList<string> ids)
    {
        var shot = state.Compiled.Shot;
        var parts = ImmutableArray.CreateBuilder<PosePart>();
        foreach (var node in Family(shot, ids))
        {
            var set = shot.SetChannels(node.Id);
            foreach (var spec in ChannelCatalog.For(node))
            {
                var isPlace = spec.Family is ChannelFamily.Position or ChannelFamily.Rotation or ChannelFamily.Scale && spec.Path.StartsWith("transform.", StringComparison.Ordinal);
                var isSet = set is not null && (set.ContainsKey(spec.Path) || shot.Layers.Any(l => set.ContainsKey(new ChannelAddress(node.Id, spec.Path).In(l.Id).Path)));
                if (isPlace || isSet && !spec.Path.StartsWith("transform.pivot", StringComparison.Ordinal))
                {
                    parts.Add(new(node.Name, spec.Path, state.Value(new(node.Id, spec.Path))));
                }
            }
        }
        return parts.Count == 0 ? throw new Refusal("There is no pose to keep: select objects first.") : new(shot.Node(ids[0]).Name, parts.ToImmutable());
    }
}

/// <summary>The value of one channel, taken along by the name of its object.</summary>
/// <param name="Name">Of the object.</param>
/// <param name="Path">Of the channel, without a layer.</param>
public sealed record PosePart(string Name, string Path, double Value) : INamedPart;

/// <summary>A pose that is kept.</summary>
public sealed record SavedPose(string Name, ImmutableArray<PosePart> Parts) : Saved(Name)
{
    /// <inheritdoc/>
    protected override IReadOnlyList<INamedPart> NamedParts => Parts.IsDefault ? [] : Parts;

    /// <inheritdoc/>
    public override void Validate()
    {
        base.Validate();
        foreach (var part in Parts)
        {
            if (!(Math.Abs(part.Value) <= CurveRules.MostValue))
            {
                throw new Refusal($"The value of {part.Path} of “{part.Name}” in “{Name}” is no number within ±{CurveRules.MostValue:0}: correct it.");
            }
        }
    }

    /// <summary>What is seen of each channel that a pose fits once it is put there, wholly or in part.</summary>
    /// <param name="fits">Where it fits.</param>
    /// <param name="from">What is seen of a channel now, by its address without a layer.</param>
    /// <param name="share">0 is how it is now, 1 is the pose; it may go past both.</param>
    public static IReadOnlyList<ChannelValue> Values(IEnumerable<Fit<PosePart>> fits, Func<ChannelAddress, double> from, double share)
    {
        CurveRules.Finite(share);
        return [.. fits.Select(f =>
        {
            var (address, now) = (f.Address.Base, from(f.Address.Base));
            // The whole pose is the pose itself, to the last bit.
            return new ChannelValue(address, share == 1 ? f.Sign * f.Part.Value : now + (f.Sign * f.Part.Value - now) * share);
        })];
    }
}

/// <summary>A motion that is kept.</summary>
/// <param name="First">The frame of the first key where it was taken.</param>
public sealed record SavedMotion(string Name, ImmutableArray<MotionPart> Parts, double First) : Saved(Name)
{
    /// <inheritdoc/>
    protected override IReadOnlyList<INamedPart> NamedParts => Parts.IsDefault ? [] : Parts;

    /// <inheritdoc/>
    public override void Validate()
    {
        base.Validate();
        CurveRules.Finite(First);
        foreach (var part in Parts)
        {
            CurveRules.Validate(part.Curve);
        }
    }

    /// <summary>The edit that puts it on a frame.</summary>
    /// <param name="targets">The ids of the objects that it is for; none is all of the shot.</param>
    public PutMotion On(double frame, IReadOnlyList<string> targets, double time = 1, double size = 1, bool mirror = false, string? layer = null, bool keepPlace = false) =>
        new(Parts, First, frame, targets, time, size, mirror, layer, keepPlace);
}
