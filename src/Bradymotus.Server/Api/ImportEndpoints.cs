using System.Text.Json;
using Bradymotus.Core;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Bradymotus.Formats.Gltf;
using Bradymotus.Reader;
using Bradymotus.Server.Foreign;
using Bradymotus.Server.Store;
using Bradymotus.Wire;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;

namespace Bradymotus.Server.Api;

/// <summary>Files of other programs, and the assets that come of them.</summary>
internal static class ImportEndpoints
{
    internal static void MapImports(this IEndpointRouteBuilder app)
    {
        app.MapPost("/api/import", ImportAsync).Accepts<IFormFileCollection>("multipart/form-data").WithTags("Shots").WithName("ImportFiles");

        app.MapGet("/api/shots/{id}/model", ExportAsync).WithTags("Shots").WithName("ExportModel");

        app.MapPost("/api/shots/{id}/bake", async (string id, BakeView bake, ShotLibrary library, DataFolder folder, CancellationToken cancel) =>
        {
            if (bake.Ids is null || bake.Ids.Any(i => i is null))
            {
                throw new Refusal("ids must list the ids of the objects to bake into, each a text: it or one in it is null.");
            }
            var (shot, _) = await library.InUseAsync(id, cancel);
            var (edit, made) = await Task.Run(() => Baking.Of(shot, folder.Assets.ForShots, bake.Ids, bake.What, bake.Frame), cancel);
            foreach (var asset in made)
            {
                folder.Assets.Put(asset);
            }
            return new EditView(Json.Element(ShotJson.Write(edit)));
        }).WithTags("Shots").WithName("BakeMeshes");

        var assets = app.MapGroup("/api/assets").WithTags("Assets");

        // What an asset holds never changes.
        assets.MapGet("/{name}", IResult (string name, DataFolder folder, HttpResponse response) =>
        {
            var path = folder.Assets.PathOf(name) ?? throw new NotFoundException("asset", name);
            response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return TypedResults.PhysicalFile(path, Asset.TypeOf(Path.GetExtension(path)), Path.GetFileName(path), enableRangeProcessing: true);
        }).WithName("Asset");

        assets.MapGet("/{name}/mesh", IResult (string name, DataFolder folder, HttpResponse response) =>
        {
            var mesh = (folder.Assets.Has(name) ? folder.Assets.ForShots.Find(name) : null) ?? throw new NotFoundException("mesh", name);
            response.Headers.CacheControl = "private, max-age=31536000, immutable";
            return TypedResults.Bytes(Packed.WriteMesh(mesh), "application/octet-stream");
        }).WithName("AssetMesh");
    }

    /// <summary>
    /// Takes one file, or several that belong together, into a new shot, or as an edit for an open one. What comes of it is stored first, so that
    /// the edit can be made.
    /// </summary>
    /// <param name="into">The shot to add it to; null makes a new one.</param>
    private static async Task<ImportView> ImportAsync(HttpRequest request, ShotLibrary library, DataFolder folder, ForeignReaders readers, CancellationToken cancel, string? into = null)
    {
        using var sent = await Upload.FormAsync(request, folder, cancel);
        var main = sent.Files.Keys.FirstOrDefault(n => Importer.CanRead(n) || n.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
            ?? throw new Refusal($"{(sent.Files.Count == 0 ? "Nothing" : string.Join(", ", sent.Files.Keys))} cannot be imported: files ending in {string.Join(", ", Importer.Endings)} or .shot.json can.");
        var open = into is null ? default : await library.InUseAsync(into, cancel);
        var (taken, skipped) = await readers.ReadAsync<ModelResult>(new ReadModel(main, sent.Files, open.Shot?.Rate, sent.Made), sent.Bytes, null, cancel);
        var shot = ShotJson.ReadShot(await File.ReadAllTextAsync(Path.Combine(sent.Made, ReadModel.ShotName), cancel));
        await sent.KeepAsync(folder.Assets, cancel);
        if (into is null)
        {
            return new(ShotView.Of(await library.AddAsync(shot, cancel)), null, taken, skipped);
        }
        var edit = new Imported(shot, [], new(taken, skipped)).ToEdit($"Import {main}", $"i{Guid.NewGuid():N}"[..9]);
        return new(null, Json.Element(ShotJson.Write(edit)), taken, skipped);
    }

    /// <summary>
    /// A shot, or some of its objects with all below them, as glTF 2.0. The header <c>Export-Report</c> says as JSON, with escapes where it is not ASCII,
    /// what stands in the file and what it could not hold.
    /// </summary>
    /// <param name="nodes">Ids, separated by commas; nothing is the whole shot.</param>
    /// <param name="step">Where keys cannot stay keys: a sample every so many frames.</param>
    private static async Task<IResult> ExportAsync(string id, ShotLibrary library, DataFolder folder, HttpResponse response, CancellationToken cancel, string? nodes = null, double step = 1)
    {
        var (shot, _) = await library.CurrentAsync(id, cancel);
        var ids = string.IsNullOrEmpty(nodes) ? null : nodes.Split(',', StringSplitOptions.RemoveEmptyEntries);
        var exported = await Task.Run(() => GltfWriter.Write(shot, folder.Assets.ForShots, new(ids, step), cancel), cancel);
        // A header has its bounds; nobody reads hundreds of sentences.
        var changed = exported.Changed.Take(40).Concat(exported.Changed.Count > 40 ? [$"And {exported.Changed.Count - 40} more of the kind."] : []);
        response.Headers["Export-Report"] = JsonSerializer.Serialize(new { kept = exported.Kept, changed });
        var name = ids is [var one] ? shot.Node(one).Name : shot.Name;
        return TypedResults.File(exported.Bytes, "model/gltf-binary", ShotEndpoints.FileName(name) + ".glb");
    }
}

/// <summary>What is to be baked into the meshes of some objects, as they stand on a frame.</summary>
public sealed record BakeView(IReadOnlyList<string> Ids, [property: System.Text.Json.Serialization.JsonConverter(typeof(NamedEnumConverter<Bake>))] Bake What, double Frame = 0);

/// <summary>A change that can be made now: what it refers to is in the library.</summary>
public sealed record EditView(JsonElement Edit);

/// <summary>What has come of an import: a new shot, or an edit that adds it to an open one; and what it has to say for itself.</summary>
/// <param name="Imported">What is there now.</param>
/// <param name="Skipped">What could not, a sentence each.</param>
public sealed record ImportView(ShotView? Shot, JsonElement? Edit, IReadOnlyList<string> Imported, IReadOnlyList<string> Skipped);
