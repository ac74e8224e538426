using System.Text.Json;
using System.Text.Json.Serialization;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Serialization;

/// <summary>Enum members in camelCase; numbers are refused.</summary>
public sealed class CamelCaseEnumConverter<T>() : JsonStringEnumConverter<T>(JsonNamingPolicy.CamelCase, allowIntegerValues: false)
    where T : struct, Enum;

/// <summary><c>"bezier"</c>, <c>"linear"</c>, <c>"hold"</c>, or <c>{"ease": FAMILY, "direction": …}</c>.</summary>
public sealed class SegmentConverter : JsonConverter<Segment>
{
    public override Segment Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        if (reader.TokenType == JsonTokenType.StartObject)
        {
            return (EaseSegment)JsonSerializer.Deserialize(ref reader, ShotJsonContext.Default.EaseSegment)!;
        }
        var name = reader.TokenType == JsonTokenType.String ? reader.GetString() : null;
        return name switch
        {
            "bezier" => Segment.Bezier,
            "linear" => Segment.Linear,
            "hold" => Segment.Hold,
            _ => throw new JsonException($"the segment “{name}” is not known: use bezier, linear, hold or an easing"),
        };
    }

    public override void Write(Utf8JsonWriter writer, Segment value, JsonSerializerOptions options)
    {
        switch (value)
        {
            case EaseSegment ease:
                JsonSerializer.Serialize(writer, ease, ShotJsonContext.Default.EaseSegment);
                break;
            case LinearSegment:
                writer.WriteStringValue("linear");
                break;
            case HoldSegment:
                writer.WriteStringValue("hold");
                break;
            default:
                writer.WriteStringValue("bezier");
                break;
        }
    }
}

/// <summary>A channel address as one string, <c>owner/path</c>.</summary>
public sealed class ChannelAddressConverter : JsonConverter<ChannelAddress>
{
    public override ChannelAddress Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        ChannelAddress.Parse(reader.GetString() ?? "");

    public override void Write(Utf8JsonWriter writer, ChannelAddress value, JsonSerializerOptions options) =>
        writer.WriteStringValue(value.ToString());
}
