using System.Text.Json.Serialization;

namespace Bradymotus.Core.Scene;

/// <summary>A mark on the ruler, with a name, and perhaps a note for whoever works on the shot.</summary>
/// <param name="Frame">Where it is.</param>
/// <param name="Name">Short, for the ruler; may be empty.</param>
/// <param name="Note">Longer, for the tooltip and the list.</param>
public sealed record Marker(string Id, double Frame, string Name = "", MarkerColor Color = MarkerColor.Amber, string? Note = null);

/// <summary>The colours of markers.</summary>
[JsonConverter(typeof(Serialization.CamelCaseEnumConverter<MarkerColor>))]
public enum MarkerColor
{
    /// <summary>Amber.</summary>
    Amber,
    /// <summary>Teal.</summary>
    Teal,
    /// <summary>Rose.</summary>
    Rose,
    /// <summary>Sky blue.</summary>
    Sky,
    /// <summary>Moss green.</summary>
    Moss,
    /// <summary>Stone grey.</summary>
    Stone,
}
