using Bradymotus.Core;
using Bradymotus.Formats;
using Bradymotus.Reader;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace Bradymotus.Server.Foreign;

/// <summary>What has been sent, on the disk and never as a whole in memory. It is gone with this, and so is what was made of it and not taken over.</summary>
public sealed class Upload : IDisposable
{
    private const int MostFiles = 100;

    private readonly Dictionary<string, string> _files = [];
    private readonly string _folder;
    private int _count;

    private Upload(DataFolder data)
    {
        _folder = Path.Combine(data.Uploads, Guid.NewGuid().ToString("n"));
        Made = Path.Combine(_folder, "made");
        Directory.CreateDirectory(Made);
    }

    /// <summary>Where each file lies, by its name without a path.</summary>
    public IReadOnlyDictionary<string, string> Files => _files;

    /// <summary>Where the only file lies, which came without a name.</summary>
    public string File => _files[""];

    /// <summary>How many bytes were sent.</summary>
    public long Bytes { get; private set; }

    /// <summary>The folder for what is made of it.</summary>
    public string Made { get; }

    /// <summary>Takes the body of a request as one file.</summary>
    /// <param name="what">What it is meant to be.</param>
    /// <exception cref="Refusal">There is nothing in it.</exception>
    public static Task<Upload> BodyAsync(HttpRequest request, string what, DataFolder data, CancellationToken cancel) => TakeAsync(request, data, async upload =>
    {
        await upload.AddAsync("", request.Body, cancel);
        if (upload.Bytes == 0)
        {
            throw new Refusal($"No {what} was sent: send its bytes as the body.");
        }
    });

    /// <summary>Takes the files of a form.</summary>
    /// <exception cref="Refusal">It is no form, cut off, or holds too many files.</exception>
    public static Task<Upload> FormAsync(HttpRequest request, DataFolder data, CancellationToken cancel) => TakeAsync(request, data, async upload =>
    {
        var boundary = MediaTypeHeaderValue.TryParse(request.ContentType, out var type) && type.MediaType.Equals("multipart/form-data", StringComparison.OrdinalIgnoreCase)
            ? HeaderUtilities.RemoveQuotes(type.Boundary).Value
            : null;
        if (string.IsNullOrEmpty(boundary))
        {
            throw new Refusal("Nothing was sent to import: send the files as multipart/form-data.");
        }
        try
        {
            var reader = new MultipartReader(boundary, request.Body);
            while (await reader.ReadNextSectionAsync(cancel) is { } section)
            {
                if (section.GetContentDispositionHeader() is { } about && about.IsFileDisposition())
                {
                    var name = (about.FileNameStar.HasValue ? about.FileNameStar : HeaderUtilities.RemoveQuotes(about.FileName)).Value ?? "";
                    await upload.AddAsync(name.Replace('\\', '/').Split('/')[^1], section.Body, cancel);
                }
            }
        }
        catch (Exception e) when (e is InvalidDataException or IOException and not BadHttpRequestException)
        {
            throw new Refusal("What was sent to import is no whole form: send the files as multipart/form-data.", e);
        }
    });

    /// <summary>Takes the assets that have been made over into the library.</summary>
    public Task KeepAsync(AssetFolder assets, CancellationToken cancel) => assets.TakeAsync(Directory.GetFiles(Made).Where(f => Path.GetFileName(f) != ReadModel.ShotName), cancel);

    public void Dispose()
    {
        try
        {
            Directory.Delete(_folder, recursive: true);
        }
        catch (IOException)
        {
            // A process that is just ending may put a last file into it: the next start clears it away.
        }
    }

    private static async Task<Upload> TakeAsync(HttpRequest request, DataFolder data, Func<Upload, Task> take)
    {
        const long most = SourceFiles.MostBytes + (1 << 20);
        var isTooLarge = request.ContentLength > most;
        if (request.HttpContext.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } limit)
        {
            limit.MaxRequestBodySize = isTooLarge ? null : most;
        }
        if (isTooLarge)
        {
            // Read to its end all the same: who is still sending would find the line cut instead of an answer.
            await request.Body.CopyToAsync(Stream.Null, request.HttpContext.RequestAborted);
            throw new BadHttpRequestException("It is too large.", StatusCodes.Status413PayloadTooLarge);
        }
        var upload = new Upload(data);
        try
        {
            await take(upload);
            return upload;
        }
        catch
        {
            upload.Dispose();
            throw;
        }
    }

    private async Task AddAsync(string name, Stream bytes, CancellationToken cancel)
    {
        if (_count == MostFiles)
        {
            throw new Refusal($"More than {MostFiles} files were sent: bring in what belongs together, and the rest afterwards.");
        }
        // Under a name of ours: theirs could lead anywhere.
        var path = Path.Combine(_folder, _count++.ToString(System.Globalization.CultureInfo.InvariantCulture));
        await using var file = new FileStream(path, FileMode.CreateNew, FileAccess.Write);
        await bytes.CopyToAsync(file, cancel);
        _files[name] = path;
        Bytes += file.Length;
    }
}
