using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Numerics;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Serialization;

/// <summary>Enum members in camelCase; numbers are refused.</summary>
public sealed class CamelCaseEnumConverter<T>() : JsonStringEnumConverter<T>(JsonNamingPolicy.CamelCase, allowIntegerValues: false)
    where T : struct, Enum;

/// <summary><c>"bezier"</c>, <c>"linear"</c>, <c>"hold"</c>, or <c>{"ease": FAMILY, "direction": …}</c>.</summary>
public sealed class SegmentConverter : JsonConverter<Segment>
{
    /// <inheritdoc/>
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

    /// <inheritdoc/>
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
    /// <inheritdoc/>
    public override ChannelAddress Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        ChannelAddress.Parse(reader.GetString() ?? "");

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, ChannelAddress value, JsonSerializerOptions options) =>
        writer.WriteStringValue(value.ToString());
}

/// <summary>A map as sixteen numbers, column-major, as glTF 2.0 has it; the fourth row must be 0, 0, 0, 1.</summary>
public sealed class AffineConverter : JsonConverter<Affine>
{
    /// <inheritdoc/>
    public override Affine Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options)
    {
        Span<double> m = stackalloc double[16];
        var count = 0;
        if (reader.TokenType == JsonTokenType.StartArray)
        {
            while (reader.Read() && reader.TokenType == JsonTokenType.Number && count < 16)
            {
                m[count++] = reader.GetDouble();
            }
        }
        return count == 16 && reader.TokenType == JsonTokenType.EndArray && m[3] == 0 && m[7] == 0 && m[11] == 0 && m[15] == 1
            ? Affine.From(m)
            : throw new JsonException("an offset is sixteen numbers, column by column, with 0, 0, 0, 1 as the last row");
    }

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, Affine value, JsonSerializerOptions options)
    {
        Span<double> m = stackalloc double[16];
        value.CopyTo(m);
        writer.WriteStartArray();
        foreach (var number in m)
        {
            writer.WriteNumberValue(number);
        }
        writer.WriteEndArray();
    }
}

/// <summary>Maps as the shot file has them, in views that are written with other options.</summary>
public sealed class MapsConverter : JsonConverter<SurfaceMap[]>
{
    private static JsonTypeInfo<SurfaceMap[]> Info => (JsonTypeInfo<SurfaceMap[]>)ShotJson.Options.GetTypeInfo(typeof(SurfaceMap[]));

    /// <inheritdoc/>
    public override SurfaceMap[]? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        JsonSerializer.Deserialize(ref reader, Info);

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, SurfaceMap[] value, JsonSerializerOptions options) => JsonSerializer.Serialize(writer, value, Info);
}

/// <summary>A node as the shot file has it, in views that are written with other options.</summary>
public sealed class NodeDataConverter : JsonConverter<Node>
{
    private static JsonTypeInfo<Node> Info => (JsonTypeInfo<Node>)ShotJson.Options.GetTypeInfo(typeof(Node));

    /// <inheritdoc/>
    public override Node? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
        JsonSerializer.Deserialize(ref reader, Info);

    /// <inheritdoc/>
    public override void Write(Utf8JsonWriter writer, Node value, JsonSerializerOptions options) => JsonSerializer.Serialize(writer, value, Info);
}
