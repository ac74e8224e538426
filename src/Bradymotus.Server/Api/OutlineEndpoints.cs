using System.Text.Json.Serialization;
using Bradymotus.Formats.Outlines;
using Bradymotus.Reader;
using Bradymotus.Server.Foreign;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>Outlines of words, and outlines put together: what a page cannot work out itself.</summary>
internal static class OutlineEndpoints
{
    internal static void MapOutlines(this IEndpointRouteBuilder app)
    {
        var outlines = app.MapGroup("/api/outlines").WithTags("Outlines");
        outlines.MapGet("/fonts", () => Lettering.Fonts).WithName("Fonts");
        outlines.MapPost("/text", async (TextView text, ForeignReaders readers, CancellationToken cancel) =>
            new OutlineView((await readers.ReadAsync<OutlineResult>(new ReadText(text.Text, text.Font), 0, null, cancel)).Path)).WithName("OutlineText");
        outlines.MapPost("/join", async (JoinView join, ForeignReaders readers, CancellationToken cancel) =>
            new OutlineView((await readers.ReadAsync<OutlineResult>(new ReadJoin(join.Outlines ?? [], join.How), 0, null, cancel)).Path)).WithName("JoinOutlines");
    }
}

/// <param name="Text">At most 200 characters; lines end in a line feed.</param>
/// <param name="Font">One of the fonts; null is the first.</param>
public sealed record TextView(string Text, string? Font = null);

/// <param name="Path">SVG path data, in metres, y upwards.</param>
public sealed record OutlineView(string Path);

/// <summary>Outlines to be put together, in the space of their maps.</summary>
public sealed record JoinView(IReadOnlyList<PlacedOutline> Outlines, [property: JsonConverter(typeof(NamedEnumConverter<OutlineJoin>))] OutlineJoin How);
