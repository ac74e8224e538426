using Bradymotus.Core;

namespace Bradymotus.Server.Rendering;

/// <summary>What a film can be, by the ending of its name.</summary>
/// <param name="Ending">With its dot.</param>
/// <param name="MediaType">For whoever fetches it.</param>
/// <param name="Filter">What is done to the pictures last, for ffmpeg.</param>
/// <param name="Options">How they are packed, for ffmpeg.</param>
/// <param name="Sound">How what is heard is packed; null where it has none.</param>
public sealed record FilmFormat(string Ending, string MediaType, string Filter, string Options, string? Sound)
{
    // Even sides, and the colours of the pictures written down as what they are.
    private const string Video = "pad=ceil(iw/2)*2:ceil(ih/2)*2,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p";
    private const string Colours = "-colorspace bt709 -color_primaries bt709 -color_trc iec61966-2-1";

    /// <summary>H.264 in MP4.</summary>
    public static FilmFormat Mp4 { get; } = new(".mp4", "video/mp4", Video, $"-c:v libx264 -crf 17 {Colours} -movflags +faststart -f mp4", "-c:a aac -b:a 192k");

    /// <summary>VP9 in WebM.</summary>
    public static FilmFormat WebM { get; } = new(".webm", "video/webm", Video, $"-c:v libvpx-vp9 -crf 24 -b:v 0 -row-mt 1 -deadline good -cpu-used 4 {Colours} -f webm", "-c:a libopus -b:a 160k");

    /// <summary>GIF, with a palette of its own.</summary>
    public static FilmFormat Gif { get; } = new(".gif", "image/gif", "split[a][b];[a]palettegen=stats_mode=diff[p];[b][p]paletteuse=dither=sierra2_4a:diff_mode=rectangle", "-loop 0 -f gif", null);

    /// <summary>PNG that moves.</summary>
    public static FilmFormat Apng { get; } = new(".apng", "image/apng", "format=rgba", "-c:v apng -plays 0 -f apng", null);

    /// <summary>All that there are.</summary>
    public static IReadOnlyList<FilmFormat> All { get; } = [Mp4, WebM, Gif, Apng];

    /// <summary>The format of a file by its name.</summary>
    /// <exception cref="Refusal">There is none of that ending.</exception>
    public static FilmFormat Of(string name) =>
        All.FirstOrDefault(f => Path.GetExtension(name).Equals(f.Ending, StringComparison.OrdinalIgnoreCase))
            ?? throw new Refusal($"A film cannot be made as “{Path.GetFileName(name)}”: give it a name that ends in {string.Join(", ", All.SkipLast(1).Select(f => f.Ending))} or {All[^1].Ending}.");
}
