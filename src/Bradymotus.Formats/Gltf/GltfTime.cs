using System.Text.Json;
using System.Text.Json.Nodes;
using Bradymotus.Core.Time;

namespace Bradymotus.Formats.Gltf;

/// <summary>What the extras of a scene say of frames: the format itself knows seconds alone.</summary>
/// <param name="Rate">The frame rate of the shot.</param>
/// <param name="First">The frame that is at 0 seconds.</param>
/// <param name="Last">The last frame of the shot; null where it is not said.</param>
internal sealed record GltfTime(FrameRate Rate, int First, int? Last)
{
    /// <summary>How many frames the shot has; null where that is not said.</summary>
    public int? Frames => Last - First + 1;

    /// <summary>As extras: <c>{"frameRate": "24000/1001", "framesPerSecond": 23.976…, "firstFrame": 0, "lastFrame": 47}</c>.</summary>
    public JsonObject ToExtras() => new() { ["frameRate"] = Rate.ToString(), ["framesPerSecond"] = Rate.FramesPerSecond, ["firstFrame"] = First, ["lastFrame"] = Last };

    /// <summary>What extras say; null where it is nothing that can be meant.</summary>
    public static GltfTime? Read(JsonNode? extras)
    {
        if (extras is not JsonObject told || RateOf(told) is not { } rate)
        {
            return null;
        }
        var (first, last) = (Whole(told["firstFrame"]) ?? 0, Whole(told["lastFrame"]));
        return last is { } end && end >= first && (long)end - first < FrameRange.MostFrames / 2 ? new(rate, first, end) : new(rate, first, null);
    }

    private static FrameRate? RateOf(JsonObject told)
    {
        var parts = (told["frameRate"] as JsonValue)?.TryGetValue(out string? text) == true ? text.Split('/') : [];
        if (parts.Length is 1 or 2 && int.TryParse(parts[0], out var numerator) && int.TryParse(parts.Length == 2 ? parts[1] : "1", out var denominator)
            && numerator > 0 && denominator > 0 && (double)numerator / denominator is >= 1 and <= 1000)
        {
            return new(numerator, denominator);
        }
        return (told["framesPerSecond"] as JsonValue)?.TryGetValue(out double rate) == true && rate is >= 1 and <= 1000 ? FrameRate.Nearest(rate) : null;
    }

    private static int? Whole(JsonNode? node) => node is JsonValue value && value.GetValueKind() == JsonValueKind.Number && value.TryGetValue(out double number)
        && number == Math.Floor(number) && Math.Abs(number) <= int.MaxValue / 4 ? (int)number : null;
}
