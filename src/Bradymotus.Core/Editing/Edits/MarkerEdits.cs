using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Puts a marker on the ruler, or changes the one that has its id.</summary>
public sealed record PutMarker(Marker Marker) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot with { Markers = shot.Markers.With(Marker, m => m.Id) };

    /// <inheritdoc/>
    public override string Describe(Shot before) => before.Markers.Any(m => m.Id == Marker.Id)
        ? $"Change the marker {Marker.Name}".TrimEnd()
        : $"Put a marker on frame {CurveRules.Number(Marker.Frame)}";
}

/// <summary>Takes markers off the ruler.</summary>
public sealed record RemoveMarkers(IReadOnlyList<string> Ids) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot with { Markers = shot.Markers.Without(Ids, m => m.Id, "marker") };

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove {(Ids.Count == 1 ? "a marker" : $"{Ids.Count} markers")}";
}
