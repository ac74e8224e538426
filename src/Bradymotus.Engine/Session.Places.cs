using System.Collections.Immutable;
using Bradymotus.Core;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Engine;

/// <summary>Where objects stand, and how they are put in place.</summary>
internal sealed partial class Session
{
    /// <summary>
    /// The channel values with which nodes stand where a hand has put them. While a hand drags, rotations go on from where
    /// the last step had them, so that many turns add up.
    /// </summary>
    internal List<ChannelValue> Place(string[] ids, double[] worlds)
    {
        var changes = new List<ChannelValue>();
        for (var i = 0; i < ids.Length; i++)
        {
            var node = Shown.Node(ids[i]);
            var parent = node.Parent is null ? Affine.Identity : _main.State.World[Compiled.IndexOfNode(node.Parent)];
            double Now(string path)
            {
                ChannelAddress address = new(node.Id, path);
                return CompiledShot.ValueOf(History.Current, address, _frame);
            }
            double Near(string path) => _dragged.TryGetValue(new(node.Id, path), out var dragged) ? dragged
                : _waiting.TryGetValue(new(node.Id, path), out var waiting) ? waiting : Now(path);
            var own = Posing.ToLocal(node, parent, Affine.From(worlds.AsSpan(16 * i, 16)), Now, Near);
            changes.AddRange(own);
            // What waited and is back where the curve has it is said too, so that it waits no longer.
            foreach (var address in _waiting.Keys.Where(a => a.Owner == node.Id && a.Path.StartsWith("transform.", StringComparison.Ordinal)
                && !a.Path.StartsWith("transform.pivot", StringComparison.Ordinal)))
            {
                if (own.All(c => c.Address != address))
                {
                    changes.Add(new(address, Now(address.Path)));
                }
            }
        }
        foreach (var (address, value) in changes)
        {
            _dragged[address] = value;
        }
        return changes;
    }

    /// <summary>The box round objects on the evaluated frame, in the space of a node or of the world: six numbers, or none where there is nothing.</summary>
    internal double[] BoundsOf(string[] ids, string within)
    {
        Affine? into = within.Length == 0 ? null
            : _main.State.World[Compiled.IndexOfNode(Shown.Node(within).Id)].TryInvert(out var inverse) ? inverse : throw new Refusal("What is scaled to nothing has no room for a box.");
        return Bounds.Of(_main.State, ids, into) is var (min, max) ? [min.X, min.Y, min.Z, max.X, max.Y, max.Z] : [];
    }

    /// <summary>Where a new object stands beside what is there, in the space of a node or of the world: see <see cref="FreePlace"/>. Three numbers.</summary>
    internal double[] FreePlaceNear(double[] near, double radius, double height, string within)
    {
        var place = FreePlace.Find(_main.State, new(near[0], near[1], near[2]), radius, height);
        if (within.Length > 0 && _main.State.World[Compiled.IndexOfNode(Shown.Node(within).Id)].TryInvert(out var toParent))
        {
            var own = toParent.Point(place);
            place = new(Math.Round(own.X, 3), Math.Round(own.Y, 3), Math.Round(own.Z, 3));
        }
        return [place.X, place.Y, place.Z];
    }

    /// <summary>How many vertices and triangles objects have: two numbers for each, 0 for what is no mesh.</summary>
    internal int[] CountsOf(string[] ids) =>
        [.. ids.SelectMany(id => Compiled.IndexOfNode(id) is >= 0 and var i && _main.State.Mesh(i) is { Rest: var mesh } ? new[] { mesh.VertexCount, mesh.TriangleCount } : [0, 0])];

    /// <summary>Position, rotation (XYZ) and scale with which something stands at a place in the world, below nothing.</summary>
    internal static double[] TransformAt(ReadOnlySpan<double> world)
    {
        var node = new GroupNode { Id = "x", Name = "x" };
        var values = Posing.ToLocal(node, Affine.Identity, Affine.From(world), path => ChannelCatalog.For(node).Find(path)!.Default).ToDictionary(v => v.Address.Path, v => v.Value);
        return [.. ChannelCatalog.For(node).Take(9).Select(c => values.GetValueOrDefault(c.Path, c.Default))];
    }

    /// <summary>How far from a camera the pivot of an object is, along its axis.</summary>
    internal double DepthOf(string camera, string id)
    {
        var (eye, index) = (_main.State.World[Compiled.IndexOfNode(Shown.Node(camera).Id)], Compiled.IndexOfNode(Shown.Node(id).Id));
        double At(string axis) => _main.State.Value(new(id, $"transform.pivot.{axis}"));
        return Double3.Dot(_main.State.World[index].Point(new(At("x"), At("y"), At("z"))) - eye.Origin, -eye.Z.Normalized());
    }

    /// <summary>How flat objects lie in the space of the first of them: x and y of the x axis, the y axis and the origin of each.</summary>
    internal double[] FlatMapsOf(string[] ids)
    {
        var state = _main.State;
        Affine WorldOf(string id) => state.World[Compiled.IndexOfNode(Shown.Node(id).Id)];
        return ids.Length > 0 && WorldOf(ids[0]).TryInvert(out var toFirst)
            ? [.. ids.Select(id => toFirst * WorldOf(id)).SelectMany(m => new[] { m.X.X, m.X.Y, m.Y.X, m.Y.Y, m.Origin.X, m.Origin.Y })]
            : [];
    }

    /// <summary>Where objects stand once they are put in order: <c>align</c>, <c>distribute</c> or <c>drop</c>.</summary>
    internal List<ChannelValue> Arrange(string[] ids, string how, int axis, int side)
    {
        var places = how switch
        {
            "align" => Arranging.Align(_main.State, ids, axis, side),
            "distribute" => Arranging.Distribute(_main.State, ids, axis),
            _ => Arranging.Drop(_main.State, ids),
        };
        var worlds = new double[16 * places.Count];
        for (var i = 0; i < places.Count; i++)
        {
            places[i].World.CopyTo(worlds.AsSpan(16 * i));
        }
        _dragged.Clear();
        return Place([.. places.Select(p => p.Id)], worlds);
    }

    /// <summary>Instances of an object that hang below others, on, above or beside them: see <see cref="InstancePlaces"/>.</summary>
    internal Edit HangInstances(string of, string[] on, string where, string prefix) => new HangInstances(of, InstancePlaces.Find(_main.State, of, on, where), prefix);

    /// <summary>Moves pivots: to the <c>centre</c> or the <c>base</c> of each object's own box, the <c>origin</c> of the world, or the pivot of another object.</summary>
    internal Edit PivotTo(string[] ids, string where)
    {
        var state = _main.State;
        var pivots = new List<NewPivot>();
        foreach (var id in ids)
        {
            var node = Shown.Node(id);
            var index = Compiled.IndexOfNode(id);
            if (!state.World[index].TryInvert(out var toOwn))
            {
                throw new Refusal($"“{node.Name}” is scaled to nothing: give it a scale first.");
            }
            Double3 to;
            if (where is "centre" or "base")
            {
                var box = Bounds.Of(state, [id], toOwn) ?? throw new Refusal($"“{node.Name}” has no shape, nor has anything below it: there is no {where} to move its pivot to.");
                to = where == "centre" ? box.Centre : box.Centre with { Y = box.Min.Y };
            }
            else if (where == "origin")
            {
                to = toOwn.Point(Double3.Zero);
            }
            else
            {
                var other = Compiled.IndexOfNode(Shown.Node(where).Id);
                double At(string axis) => state.Value(new(where, $"transform.pivot.{axis}"));
                to = toOwn.Point(state.World[other].Point(new(At("x"), At("y"), At("z"))));
            }
            pivots.Add(new(id, to.X, to.Y, to.Z));
        }
        return new MovePivots(pivots, _frame);
    }
}
