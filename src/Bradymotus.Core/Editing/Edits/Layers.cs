using System.Collections.Immutable;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Layers merged into what lies below them.</summary>
public static class Layers
{
    /// <exception cref="Refusal">There is no such layer, or it is locked.</exception>
    internal static Layer Free(Shot shot, string id) => shot.Layer(id) is { Locked: false } layer
        ? layer
        : throw new Refusal($"The layer “{shot.Layer(id).Name}” is locked: unlock it first, with the lock on its strip beside the tracks.");

    /// <summary>Everything that all layers do as channels without layers: looks the same on every whole frame of the range, and wherever there are keys.</summary>
    public static Shot Baked(Shot shot, CancellationToken cancel = default)
    {
        var active = CompiledLayer.Of(shot.Layers, []).Select(l => l.Layer.Id).ToHashSet();
        // What has no say goes without a trace.
        shot = WithoutChannels(shot, id => !active.Contains(id));
        shot = shot with { Layers = [.. shot.Layers.Where(l => active.Contains(l.Id))] };
        while (shot.Layers.Length > 0)
        {
            shot = Merged(shot, shot.Layers[0], null, cancel);
        }
        return shot;
    }

    /// <summary>The shot without the channels of some layers.</summary>
    internal static Shot WithoutChannels(Shot shot, Func<string, bool> isGone)
    {
        ImmutableSortedDictionary<string, Channel>? Rest(string owner, ImmutableSortedDictionary<string, Channel>? channels)
        {
            var gone = channels?.Keys.Where(p => new ChannelAddress(owner, p).Layer is { } id && isGone(id)).ToList();
            return gone is { Count: > 0 } ? Instances.OrNone(channels!.RemoveRange(gone)) : channels;
        }
        var without = shot.WithAll(shot.Nodes.Select(n => Rest(n.Id, n.Channels) is var rest && ReferenceEquals(rest, n.Channels) ? n : n with { Channels = rest }));
        var changed = shot.Materials.Select(m => Rest(m.Id, m.Channels) is var rest && ReferenceEquals(rest, m.Channels) ? m : m with { Channels = rest }).ToImmutableArray();
        var materials = changed.Zip(shot.Materials, ReferenceEquals).All(same => same) ? shot.Materials : changed;
        var sounds = shot.Sounds;
        foreach (var sound in shot.Sounds)
        {
            var rest = Rest(sound.Id, sound.Channels);
            sounds = ReferenceEquals(rest, sound.Channels) ? sounds : sounds.Replace(sound, sound with { Channels = rest });
        }
        return without with { Materials = materials, Sounds = sounds, World = Rest(Shot.WorldOwner, shot.World) };
    }

    /// <summary>What a layer is laid over is said, where a channel is as another of its owner until somebody sets it: once it is set it no longer follows that, in any layer.</summary>
    private static Shot Explicit(Shot shot)
    {
        var builder = new ShotBuilder(shot);
        foreach (var address in shot.AllSetChannels().Select(c => c.Address).Where(a => a.Layer is not null).Select(a => a.Base).Distinct().ToList())
        {
            var set = shot.SetChannels(address.Owner)!;
            if (set.ContainsKey(address.Path) || shot.Spec(address).Like is not { } like)
            {
                continue;
            }
            var other = new ChannelAddress(address.Owner, like);
            builder.Set(address, shot.Channel(other) with { Locked = false });
            foreach (var layer in shot.Layers.Where(l => set.ContainsKey(other.In(l.Id).Path) && !set.ContainsKey(address.In(l.Id).Path)))
            {
                builder.Set(address.In(layer.Id), shot.Channel(other.In(layer.Id)) with { Locked = false });
            }
        }
        return builder.ToShot();
    }

    /// <param name="below">Where it goes; null is the channels themselves.</param>
    internal static Shot Merged(Shot shot, Layer layer, Layer? below, CancellationToken cancel)
    {
        // What has no say goes without a trace, in a layer and where one is laid on, together with what belongs to it.
        static (string, string) Group(ChannelAddress a) => (a.Owner, a.Base.Path[..Math.Max(0, a.Base.Path.LastIndexOf('.'))]);
        var touched = shot.AllSetChannels().Where(c => c.Address.Layer is not null).Select(c => Group(c.Address)).ToHashSet();
        shot = Explicit(MuteChannels.WithoutMuted(shot, a => touched.Contains(Group(a)) || shot.FindLayer(a.Owner) is not null));
        (layer, below) = (shot.Layer(layer.Id), below is null ? null : shot.Layer(below.Id));
        var weight = shot.Channel(new(layer.Id, Layer.Weight));
        var weightBelow = below is null ? null : shot.Channel(new(below.Id, Layer.Weight));
        // A weight that changes, or is none, goes into the keys; so does one with which a quaternion could not turn far enough.
        var isFreed = weightBelow is { Curve: not null } or { Value: <= 0 }
            || (weightBelow is { Value: < 1 } && Owners(shot, layer, null).Any(o => shot.FindNode(o) is { RotationOrder: Numerics.RotationOrder.Quaternion }));
        // What lies below both may count, what lies above does not.
        var active = CompiledLayer.Of(shot.Layers, []).Select(l => l.Layer.Id).ToHashSet();
        var both = shot with
        {
            Layers = [.. shot.Layers.TakeWhile(l => l != (below ?? layer)).Where(l => below is not null && active.Contains(l.Id)).Append(below)
                .Append(layer).OfType<Layer>().Select(l => l with { Muted = false, Solo = false })],
        };
        both = WithoutChannels(both, id => both.FindLayer(id) is null);
        // Where all keys stay as they are nobody asks.
        var compiled = new Lazy<CompiledShot>(() => new(both));
        var target = isFreed && below is not null ? below with { Channels = null } : below;
        // Only what it goes into is left of it, so that it is asked what it has to have.
        var into = both with { Layers = [.. both.Layers.Where(l => l.Id != layer.Id).Select(l => l.Id == target?.Id ? target with { Muted = false, Solo = false } : l)] };
        into = WithoutChannels(into, id => id == layer.Id);
        var builder = new ShotBuilder(shot);
        foreach (var owner in Owners(shot, layer, isFreed ? below : null))
        {
            cancel.ThrowIfCancellationRequested();
            new Merging(shot, compiled, into, owner, layer, weight, below, target, builder).Run();
        }
        var merged = WithoutChannels(builder.ToShot(), id => id == layer.Id);
        var layers = merged.Layers.Remove(layer);
        if (below is not null && target != below)
        {
            layers = layers.Replace(below, target!);
        }
        return merged with { Layers = layers };
    }

    /// <summary>The owners that have channels in one of two layers.</summary>
    private static List<string> Owners(Shot shot, Layer layer, Layer? other) => shot.AllSetChannels()
        .Where(c => c.Address.Layer is { } id && (id == layer.Id || id == other?.Id)).Select(c => c.Address.Owner).Distinct().ToList();

    /// <summary>The longest way that is merged key by key.</summary>
    private const int MostFrames = 100_000;

    /// <summary>The longest pass, in frames, that is kept as one: several that repeat at different lengths may take very long to come together again.</summary>
    private const int MostCycle = 10_000;

    private sealed class Merging(Shot shot, Lazy<CompiledShot> both, Shot into, string owner, Layer layer, Channel weight, Layer? below, Layer? target, ShotBuilder builder)
    {
        internal void Run()
        {
            var paths = shot.SetChannels(owner)!.Keys.Select(p => new ChannelAddress(owner, p))
                .Where(a => a.Layer == layer.Id || (target != below && a.Layer == below!.Id)).Select(a => a.Base.Path).Distinct().ToList();
            var turn = shot.FindNode(owner) is { } node ? RotationOrders.Paths(node.RotationOrder) : [];
            var asked = paths.Where(turn.Contains).ToList();
            var isTurn = asked.Count > 0 && (turn.Length == 4 || layer.Mode == LayerMode.Add || below?.Mode == LayerMode.Add);
            foreach (var path in paths.Where(p => !isTurn || !turn.Contains(p)))
            {
                if (!TryKeepKeys(path))
                {
                    Bake([path]);
                }
            }
            if (isTurn)
            {
                if (asked.Count > 1 || OthersTurn(turn, asked[0]) || !TryKeepKeys(asked[0]))
                {
                    Bake(turn);
                }
            }
        }

        /// <summary>Whether there is a turn about another axis in what the layer is laid over.</summary>
        private bool OthersTurn(string[] turn, string path) => turn.Length == 4 || turn.Any(p => p != path
            && new[] { new ChannelAddress(owner, p), new ChannelAddress(owner, p).In(below?.Id) }.Any(a => shot.Channel(a) is { Curve: not null } or { Value: not 0 }));

        private ChannelAddress Target(string path) => new ChannelAddress(owner, path).In(below?.Id);

        /// <summary>Where one of the two does not change, the keys of the other are moved and scaled, which is exact.</summary>
        private bool TryKeepKeys(string path)
        {
            var own = shot.Channel(new ChannelAddress(owner, path).In(layer.Id));
            var under = shot.Channel(Target(path));
            if (weight.Curve is not null || target != below || layer.Mode != LayerMode.Add || (below is { Mode: LayerMode.Override } && !IsSet(Target(path))))
            {
                return false;
            }
            // What adds in a layer that has a weight counts as much less there.
            var share = CompiledLayer.Held(weight.Value) / (below is null ? 1 : CompiledLayer.Held(shot.Channel(new(below.Id, Layer.Weight)).Value));
            if (own.Curve is null)
            {
                builder.Set(Target(path), under with { Value = under.Value + share * own.Value, Curve = Moved(under.Curve, 1, share * own.Value) });
                return true;
            }
            if (under.Curve is null)
            {
                builder.Set(Target(path), under with { Value = under.Value + share * own.Value, Curve = Moved(own.Curve, share, under.Value) });
                return true;
            }
            return false;
        }

        private bool IsSet(ChannelAddress address) => shot.SetChannels(owner)?.ContainsKey(address.Path) == true;

        private static Curve? Moved(Curve? curve, double scale, double by) => curve is null || (scale == 1 && by == 0) ? curve
            : CurveEdits.Transform(curve, [.. Enumerable.Range(0, curve.Keys.Length)], new KeyTransform(Value: by, ValueScale: scale));

        /// <summary>Keys on every frame, or single values where nothing changes.</summary>
        private void Bake(string[] paths)
        {
            var addresses = paths.Select(p => new ChannelAddress(owner, p)).ToArray();
            // Where one of them takes the place of the rest, by a part, by a weight that is freed, or for the first time, what is below both counts too.
            var isOnAll = layer.Mode == LayerMode.Override || (below is { Mode: LayerMode.Override } && (target != below || paths.Length > 1 || !IsSet(Target(paths[0]))));
            var layers = isOnAll ? both.Value.Shot.Layers.Select(l => l.Id).ToList() : [layer.Id, .. below is null ? Array.Empty<string>() : [below.Id]];
            var involved = addresses.SelectMany(a => layers.Select(a.In).Concat(isOnAll || below is null ? [a] : [])).Select(a => shot.Channel(a).Curve).OfType<Curve>().ToList();
            var weights = layers.Select(l => shot.Channel(new(l, Layer.Weight)).Curve).OfType<Curve>();
            List<Curve> all = [.. involved, .. weights];
            var cycle = CycleOf(all);
            var frames = Frames(all, shot, cycle is { } pass ? (pass.First, pass.Last) : null);
            var keys = addresses.Select(_ => ImmutableArray.CreateBuilder<Key>(frames.Count)).ToArray();
            foreach (var frame in frames)
            {
                if (into.Layers.IsEmpty)
                {
                    // It is what is seen.
                    for (var i = 0; i < addresses.Length; i++)
                    {
                        keys[i].Add(new(frame, ValueOf(addresses[i], frame), Segment.Linear));
                    }
                    continue;
                }
                var wanted = addresses.Select(a => new ChannelValue(a, ValueOf(a, frame))).ToList();
                var solved = LayerPosing.Solve(into, wanted, frame, target?.Id).SelectMany(s => s.Own).ToDictionary(v => v.Address, v => v.Value);
                for (var i = 0; i < addresses.Length; i++)
                {
                    keys[i].Add(new(frame, solved.TryGetValue(addresses[i].In(target?.Id), out var v) ? v : into.Channel(addresses[i].In(target?.Id)).Evaluate(frame), Segment.Linear));
                }
            }
            if (paths.Length > 1)
            {
                Unroll(keys);
            }
            for (var i = 0; i < addresses.Length; i++)
            {
                var (at, made) = (addresses[i].In(target?.Id), keys[i].DrainToImmutable());
                var isStill = frames.Count == 1 || made.All(k => k.Value == made[0].Value);
                var curve = cycle is { } own ? new Curve(made) { Before = own.Before, After = own.After } : new Curve(made);
                builder.Set(at, builder.Channel(at) with { Value = made[0].Value, Curve = isStill ? null : curve });
            }
        }

        /// <summary>
        /// What repeats for ever goes on doing so: one pass of all curves together, from their first key, where all begin together and go on alike.
        /// Null where they do not, or one pass would be longer than <see cref="MostCycle"/>.
        /// </summary>
        private static (double First, double Last, Extrapolation Before, Extrapolation After)? CycleOf(List<Curve> curves)
        {
            var moving = curves.Where(c => c.Keys.Length > 1).ToList();
            static bool Repeats(Extrapolation e) => e is { Kind: ExtrapolationKind.Loop or ExtrapolationKind.PingPong, Count: 0, Until: null };
            var (loopsBefore, loopsAfter) = (moving.Count > 0 && moving.TrueForAll(c => Repeats(c.Before)), moving.Count > 0 && moving.TrueForAll(c => Repeats(c.After)));
            if ((!loopsBefore && !loopsAfter) || (loopsBefore && loopsAfter && moving.Exists(c => c.Before.Kind != c.After.Kind)))
            {
                return null;
            }
            var (first, last) = (moving.Min(c => c.Keys[0].Frame), moving.Max(c => c.Keys[^1].Frame));
            bool Alike(bool loops, Func<Curve, Extrapolation> of, Func<Curve, double> end, double at) =>
                loops || moving.TrueForAll(c => of(c).Kind == ExtrapolationKind.Hold && end(c) == at);
            if (!Alike(loopsBefore, c => c.Before, c => c.Keys[0].Frame, first) || !Alike(loopsAfter, c => c.After, c => c.Keys[^1].Frame, last))
            {
                return null;
            }
            long pass = 1;
            foreach (var curve in moving)
            {
                var isBothWays = curve.Before.Kind == ExtrapolationKind.PingPong || curve.After.Kind == ExtrapolationKind.PingPong;
                var own = (curve.Keys[^1].Frame - curve.Keys[0].Frame) * (isBothWays ? 2 : 1);
                if (own != Math.Round(own) || own > MostCycle || (pass = pass / (long)System.Numerics.BigInteger.GreatestCommonDivisor(pass, (long)own) * (long)own) > MostCycle)
                {
                    return null;
                }
            }
            var (begin, end) = loopsAfter ? (first, first + pass) : (last - pass, last);
            var loop = new Extrapolation(ExtrapolationKind.Loop);
            return (begin, end, loopsBefore ? loop : new(ExtrapolationKind.Hold), loopsAfter ? loop : new(ExtrapolationKind.Hold));
        }

        private double ValueOf(ChannelAddress address, double frame)
        {
            Span<double> value = [0];
            both.Value.Sample(address, frame, 1, value);
            return value[0];
        }

        /// <summary>Angles go on from those of the frame before, so that nothing between two frames goes the long way round.</summary>
        private void Unroll(ImmutableArray<Key>.Builder[] keys)
        {
            if (shot.FindNode(owner) is not { RotationOrder: not Numerics.RotationOrder.Quaternion } node)
            {
                return;
            }
            for (var f = 1; f < keys[0].Count; f++)
            {
                Numerics.Double3 At(int at) => new(keys[0][at].Value, keys[1][at].Value, keys[2][at].Value);
                var angles = Numerics.Euler.From(Numerics.Affine.Rotation(At(f), node.RotationOrder), node.RotationOrder, At(f - 1));
                // Only where the numbers jump: those that go on are exact.
                if (keys.Any(k => Math.Abs(k[f].Value - k[f - 1].Value) > 90))
                {
                    (keys[0][f], keys[1][f], keys[2][f]) = (keys[0][f] with { Value = angles.X }, keys[1][f] with { Value = angles.Y }, keys[2][f] with { Value = angles.Z });
                }
            }
        }

        private static List<double> Frames(List<Curve> curves, Shot shot, (double First, double Last)? cycle)
        {
            if (curves.Count == 0)
            {
                return [shot.Range.First];
            }
            var (first, last) = (curves.Min(c => c.Keys[0].Frame), curves.Max(c => c.Keys[^1].Frame));
            if (cycle is { } pass)
            {
                (first, last) = pass;
            }
            else if (curves.Any(c => c.Before.Kind != ExtrapolationKind.Hold || c.After.Kind != ExtrapolationKind.Hold))
            {
                (first, last) = (Math.Min(first, shot.Range.First), Math.Max(last, shot.Range.Last));
            }
            if (last - first > MostFrames)
            {
                throw new Refusal($"The keys of these layers lie {CurveRules.Number(last - first)} frames apart, and merging would put a key on each: at most {MostFrames} are taken.");
            }
            var frames = new SortedSet<double>(curves.SelectMany(c => c.Keys).Select(k => k.Frame).Where(f => cycle is null || (f >= first && f <= last))) { first, last };
            for (var f = Math.Ceiling(first); f <= last; f++)
            {
                frames.Add(f);
            }
            var apart = new List<double>();
            foreach (var frame in frames)
            {
                if (apart.Count == 0 || frame - apart[^1] >= Curve.LeastGap)
                {
                    apart.Add(frame);
                }
            }
            return apart;
        }
    }
}
