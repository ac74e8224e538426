using System.Collections.Immutable;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>What has become another since the page last asked.</summary>
internal sealed partial class Session
{
    /// <summary>What panels have to read again since this was last asked.</summary>
    /// <param name="frames">Those of the keys of changed curves, one after the other.</param>
    internal ChangesView TakeChanges(List<double> frames)
    {
        frames.Clear();
        var keys = new Dictionary<string, int>();
        foreach (var address in _structureChanged ? [] : _changedCurves)
        {
            var from = frames.Count;
            if (IsThere(address) && Shown.Channel(address).Curve is { } curve)
            {
                foreach (var key in curve.Keys)
                {
                    frames.Add(key.Frame);
                }
            }
            keys.Add(address.ToString(), frames.Count - from);
        }
        NodeView[] nodes = _structureChanged ? [] : [.. _changedNodes.Select(Shown.FindNode).OfType<Node>().Select(n => NodeView.Of(Compiled, n))];
        var view = new ChangesView(_structureChanged, _headChanged && !_structureChanged ? HeadView.Of(Shown) : null, nodes, keys);
        _structureChanged = _headChanged = false;
        _changedNodes.Clear();
        _changedCurves.Clear();
        return view;
    }

    /// <summary>Notes what is different between two states. What is the same reference is the same.</summary>
    private void Note(Shot before, Shot after)
    {
        if (_structureChanged)
        {
            return;
        }
        // All but what is looked at one by one.
        static Shot Head(Shot shot) => shot with { Nodes = [], Materials = [], World = null, Layers = [], Sounds = [] };
        _headChanged |= Head(before) != Head(after);
        _structureChanged = before.Nodes.Length != after.Nodes.Length || before.Materials.Length != after.Materials.Length
            || AreOther(before.Layers, after.Layers, (a, b) => a with { Channels = b.Channels } == b)
            || AreOther(before.Sounds, after.Sounds, (a, b) => a with { Channels = b.Channels } == b);
        for (var i = 0; i < after.Nodes.Length && !_structureChanged && before.Nodes != after.Nodes; i++)
        {
            var (a, b) = (before.Nodes[i], after.Nodes[i]);
            if (ReferenceEquals(a, b))
            {
                continue;
            }
            _structureChanged = a.Id != b.Id || a.Parent != b.Parent || !ReferenceEquals(ChannelCatalog.For(a), ChannelCatalog.For(b));
            if ((a with { Channels = b.Channels }) != b)
            {
                _changedNodes.Add(b.Id);
            }
            NoteCurves(b.Id, a.Channels, b.Channels);
        }
        for (var i = 0; i < after.Materials.Length && !_structureChanged && before.Materials != after.Materials; i++)
        {
            var (a, b) = (before.Materials[i], after.Materials[i]);
            if (!ReferenceEquals(a, b))
            {
                _structureChanged = a.Id != b.Id || a.Name != b.Name || a.Maps != b.Maps;
                NoteCurves(b.Id, a.Channels, b.Channels);
            }
        }
        NoteCurves(Shot.WorldOwner, before.World, after.World);
    }

    /// <summary>Whether layers or sounds are others in something but their channels, which are noted.</summary>
    private bool AreOther<T>(ImmutableArray<T> before, ImmutableArray<T> after, Func<T, T, bool> isSame)
        where T : IChannelOwner
    {
        if (before == after)
        {
            return false;
        }
        for (var i = 0; i < after.Length && before.Length == after.Length; i++)
        {
            if (!isSame(before[i], after[i]))
            {
                return true;
            }
            NoteCurves(after[i].Id, before[i].Channels, after[i].Channels);
        }
        return before.Length != after.Length;
    }

    private void NoteCurves(string owner, ImmutableSortedDictionary<string, Channel>? before, ImmutableSortedDictionary<string, Channel>? after)
    {
        if (ReferenceEquals(before, after))
        {
            return;
        }
        foreach (var path in (before?.Keys ?? []).Union(after?.Keys ?? []))
        {
            var (a, b) = (before?.GetValueOrDefault(path), after?.GetValueOrDefault(path));
            _structureChanged |= (a?.Locked ?? false) != (b?.Locked ?? false) || (a?.Muted ?? false) != (b?.Muted ?? false);
            if (!ReferenceEquals(a?.Curve, b?.Curve))
            {
                _changedCurves.Add(new(owner, path));
            }
        }
    }
}
