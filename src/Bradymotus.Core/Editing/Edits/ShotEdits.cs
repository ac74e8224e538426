using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;
using Bradymotus.Core.Time;

namespace Bradymotus.Core.Editing;

/// <summary>Changes what belongs to the shot as a whole. What is null stays.</summary>
/// <param name="Camera">The id of the camera that renders.</param>
/// <param name="NoSkyPicture">Takes the picture of the sky away.</param>
/// <param name="WholeRange">True lets the whole range play again.</param>
public sealed record SetShot(
    string? Name = null, FrameRate? Rate = null, FrameRange? Range = null, FrameRange? PlayRange = null,
    PictureSize? Size = null, string? Camera = null, bool WholeRange = false,
    SkyPicture? SkyPicture = null, bool NoSkyPicture = false, Background? Background = null, KeyStyle? NewKeys = null) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => shot with
    {
        Name = Name?.Trim() ?? shot.Name,
        Rate = Rate ?? shot.Rate,
        Range = Range ?? shot.Range,
        PlayRange = WholeRange ? null : PlayRange ?? shot.PlayRange,
        Size = Size ?? shot.Size,
        Camera = Camera ?? shot.Camera,
        SkyPicture = NoSkyPicture ? null : SkyPicture ?? shot.SkyPicture,
        Background = Background ?? shot.Background,
        NewKeys = NewKeys ?? shot.NewKeys,
    };

    /// <inheritdoc/>
    public override string Describe(Shot before) =>
        Name is not null ? $"Name the shot {Name}"
        : Rate is not null ? $"Set the frame rate to {Rate}"
        : Range is not null ? $"Set the range to {Range}"
        : PlayRange is not null || WholeRange ? "Set the playback range"
        : Size is not null ? $"Set the resolution to {Size}"
        : Camera is not null ? $"Render through {before.FindNode(Camera)?.Name}"
        : SkyPicture is not null ? $"Set the sky to {SkyPicture.Name}"
        : NoSkyPicture ? "Take the picture out of the sky"
        : Background is not null ? $"Set the background to {Background.ToString()!.ToLowerInvariant()}"
        : NewKeys is not null ? "Set how new keys are"
        : "Change the shot";
}

/// <summary>Puts another shot in the place of this one, as importing and going back to an old state do.</summary>
public sealed record ReplaceShot(Shot Shot, string Label) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => Shot;

    /// <inheritdoc/>
    public override string Describe(Shot before) => Label;
}
