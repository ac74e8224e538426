using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Puts a marker on the ruler, or changes the one that has its id.</summary>
public sealed record PutMarker(Marker Marker) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var at = shot.Markers.ToList().FindIndex(m => m.Id == Marker.Id);
        return shot with { Markers = at < 0 ? shot.Markers.Add(Marker) : shot.Markers.SetItem(at, Marker) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => before.Markers.Any(m => m.Id == Marker.Id)
        ? $"Change the marker {Marker.Name}".TrimEnd()
        : $"Put a marker on frame {CurveRules.Number(Marker.Frame)}";
}

/// <summary>Takes markers off the ruler.</summary>
public sealed record RemoveMarkers(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        foreach (var id in Ids)
        {
            if (shot.Markers.All(m => m.Id != id))
            {
                throw new Refusal("This marker is not there any more: it may have been removed.");
            }
        }
        return shot with { Markers = shot.Markers.RemoveAll(m => Ids.Contains(m.Id)) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove {(Ids.Count == 1 ? "a marker" : $"{Ids.Count} markers")}";
}
