using System.Text.Json;
using Bradymotus.Core.Serialization;
using Bradymotus.Formats;
using Bradymotus.Formats.Outlines;

namespace Bradymotus.Reader;

/// <summary>Reads what comes from elsewhere. Only the process that may be ended at any moment does so.</summary>
internal static class ForeignReader
{
    /// <exception cref="Core.Refusal">It cannot be read.</exception>
    internal static async Task<JsonElement> ReadAsync(ReadRequest request, Action<double> report) => request switch
    {
        ReadModel model => Element(Read(model)),
        ReadPicture picture => Element(Read(picture)),
        ReadSound sound => Element(await SoundFile.ReadAsync(sound.File, sound.Name, sound.Made, report)),
        ReadFilm film => Element(await FilmFile.ReadAsync(film.File, film.Name, film.Made, report)),
        ReadText text => Element(new OutlineResult(Lettering.Outline(text.Text, text.Font))),
        ReadJoin join => Element(new OutlineResult(OutlineData.Join(join.Outlines, join.How))),
        _ => throw new NotSupportedException(request.GetType().Name),
    };

    private static ModelResult Read(ReadModel model)
    {
        var files = new SentFiles(model.Name, model.Files);
        var imported = model.Name.EndsWith(".json", StringComparison.OrdinalIgnoreCase)
            ? new Imported(ShotJson.ReadShot(System.Text.Encoding.UTF8.GetString(files.Read()).TrimStart('\uFEFF')), [], new([], []))
            : Importer.Read(files, new(model.Rate));
        foreach (var asset in imported.Assets)
        {
            Put(asset, model.Made);
        }
        File.WriteAllBytes(Path.Combine(model.Made, ReadModel.ShotName), ShotJson.WriteBytes(imported.Shot));
        return new(imported.Report.Imported, imported.Report.Skipped);
    }

    private static MediaResult Read(ReadPicture request)
    {
        var (picture, asset) = PictureFile.Read(File.ReadAllBytes(request.File), request.Name, request.IsSky);
        Put(asset, request.Made);
        return new(picture.Asset, picture.Name, picture.Width, picture.Height);
    }

    private static void Put(Asset asset, string folder) => File.WriteAllBytes(Path.Combine(folder, asset.Name + Asset.EndingOf(asset.Bytes)), asset.Bytes);

    private static JsonElement Element<T>(T value) => JsonSerializer.SerializeToElement(value, ReaderJson.Options);
}
