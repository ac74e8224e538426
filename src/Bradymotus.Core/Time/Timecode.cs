using System.Globalization;

namespace Bradymotus.Core.Time;

/// <summary>Frames written as hours, minutes, seconds and frames, without dropped numbers.</summary>
public static class Timecode
{
    /// <summary><c>00:00:02:12</c> for frame 60 at 24 frames a second. The frames count up to the rate rounded up.</summary>
    public static string Format(int frame, FrameRate rate)
    {
        var perSecond = (long)Math.Ceiling(rate.FramesPerSecond);
        var n = Math.Abs((long)frame);
        var sign = frame < 0 ? "-" : "";
        var seconds = n / perSecond;
        return string.Create(CultureInfo.InvariantCulture,
            $"{sign}{seconds / 3600:00}:{seconds / 60 % 60:00}:{seconds % 60:00}:{n % perSecond:00}");
    }
}
