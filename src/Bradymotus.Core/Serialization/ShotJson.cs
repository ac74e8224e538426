using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Serialization;

// Metadata only: the fast way of writing would not ask what is plain.
/// <summary>What is needed to read and write shots and edits as JSON, made at the build.</summary>
[JsonSourceGenerationOptions(
    GenerationMode = JsonSourceGenerationMode.Metadata,
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    AllowOutOfOrderMetadataProperties = true,
    ReadCommentHandling = JsonCommentHandling.Skip,
    AllowTrailingCommas = true,
    RespectNullableAnnotations = true,
    RespectRequiredConstructorParameters = true,
    // What is not known may matter: it is refused by its name, not dropped and lost at the next save.
    UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
    AllowDuplicateProperties = false,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull)]
[JsonSerializable(typeof(Shot))]
[JsonSerializable(typeof(Curve))]
[JsonSerializable(typeof(Segment))]
[JsonSerializable(typeof(EaseSegment))]
[JsonSerializable(typeof(Edit))]
[JsonSerializable(typeof(Edit[]))]
[JsonSerializable(typeof(JournalEntry))]
[JsonSerializable(typeof(JournalEntry[]))]
[JsonSerializable(typeof(ChannelSpec[]))]
[JsonSerializable(typeof(Evaluation.ShotSample))]
[JsonSerializable(typeof(ChannelKeys[]))]
[JsonSerializable(typeof(SurfaceMap[]))]
[JsonSerializable(typeof(Checks.Finding[]))]
[JsonSerializable(typeof(Saved))]
public sealed partial class ShotJsonContext : JsonSerializerContext;

/// <summary>Shots, curves and edits as JSON. Bad text gives a <see cref="Refusal"/> that says where.</summary>
public static class ShotJson
{
    /// <summary>Compact, for the server and the journal.</summary>
    public static JsonSerializerOptions Options { get; } = Make(indented: false);

    /// <summary>For files that people may read.</summary>
    public static JsonSerializerOptions Indented { get; } = Make(indented: true);

    /// <summary>As JSON text, with what has its default left out.</summary>
    public static string Write<T>(T value, bool indented = false) =>
        JsonSerializer.Serialize(value, Info<T>(indented ? Indented : Options));

    /// <summary>As <see cref="Write"/>, in UTF-8.</summary>
    public static byte[] WriteBytes<T>(T value, bool indented = false) =>
        JsonSerializer.SerializeToUtf8Bytes(value, Info<T>(indented ? Indented : Options));

    /// <summary>Reads and checks a shot.</summary>
    /// <exception cref="Refusal">The text is not a shot, or breaks a rule of <see cref="ShotRules"/>.</exception>
    public static Shot ReadShot(string json)
    {
        var utf8 = Encoding.UTF8.GetBytes(json);
        Scan(utf8, "shot");
        var shot = Read<Shot>(utf8, "shot");
        ShotRules.Validate(shot);
        return shot;
    }

    /// <summary>Reads and checks a saved pose or motion.</summary>
    /// <exception cref="Refusal">The text is none, or it breaks a rule.</exception>
    public static Saved ReadSaved(string json)
    {
        var utf8 = Encoding.UTF8.GetBytes(json);
        Scan(utf8, "saved pose or motion");
        var saved = Read<Saved>(utf8, "saved pose or motion");
        saved.Validate();
        return saved;
    }

    /// <summary>Reads a line of the journal that comes from outside.</summary>
    /// <exception cref="Refusal">The text is not one.</exception>
    public static JournalEntry ReadEntry(string json)
    {
        var utf8 = Encoding.UTF8.GetBytes(json);
        Scan(utf8, "edit");
        return Read<JournalEntry>(utf8, "edit");
    }

    /// <summary>Reads a curve, or an edit, or a journal entry.</summary>
    /// <param name="what">For the message.</param>
    /// <exception cref="Refusal">The text is not what it should be.</exception>
    public static T Read<T>(string json, string what) => Read<T>(Encoding.UTF8.GetBytes(json), what);

    /// <inheritdoc cref="Read{T}(string, string)"/>
    public static T Read<T>(ReadOnlySpan<byte> utf8, string what)
    {
        try
        {
            return JsonSerializer.Deserialize(utf8, Info<T>(ShotJsonContext.Default.Options))
                ?? throw new Refusal($"The {what} is empty: expected a JSON object.");
        }
        catch (JsonException e)
        {
            throw new Refusal(Explain(e, what, Encoding.UTF8.GetString(utf8)), e);
        }
        catch (Exception e) when (e is NotSupportedException or InvalidOperationException or ArgumentException or FormatException)
        {
            throw new Refusal($"The {what} cannot be read: {Sentence(e.Message)}", e);
        }
    }

    private static JsonTypeInfo<T> Info<T>(JsonSerializerOptions options) => (JsonTypeInfo<T>)options.GetTypeInfo(typeof(T));

    private static JsonSerializerOptions Make(bool indented)
    {
        var options = new JsonSerializerOptions(ShotJsonContext.Default.Options)
        {
            WriteIndented = indented,
            TypeInfoResolver = ShotJsonContext.Default.WithAddedModifier(LeaveOutPlain),
        };
        options.MakeReadOnly();
        return options;
    }

    /// <summary>What is as a fresh instance has it is not written, so that files show what matters.</summary>
    private static void LeaveOutPlain(JsonTypeInfo info)
    {
        if (!Plain.All.TryGetValue(info.Type, out var plain))
        {
            return;
        }
        foreach (var property in info.Properties)
        {
            if (property.Get is { } get && !Plain.AlwaysWritten.Contains(property.Name))
            {
                var usual = get(plain);
                property.ShouldSerialize = (_, value) => value is not null && !value.Equals(usual) && value is not System.Collections.ICollection { Count: 0 };
            }
        }
    }

    /// <summary>
    /// What reading in earnest would not see: a newer version, which may hold anything, gaps in lists, which no list of ours has, and numbers
    /// beyond all that can be written again.
    /// </summary>
    private static void Scan(ReadOnlySpan<byte> utf8, string what)
    {
        try
        {
            var reader = new Utf8JsonReader(utf8, new JsonReaderOptions { CommentHandling = JsonCommentHandling.Skip, AllowTrailingCommas = true });
            var isNamed = false;
            var (list, count) = ("", 0);
            while (reader.Read())
            {
                // A list far beyond its bound would take long to read and be refused all the same.
                if (reader.CurrentDepth == 2 && reader.TokenType == JsonTokenType.StartObject && list.Length > 0 && ++count > Math.Max(ShotRules.MostNodes, ShotRules.MostMaterials))
                {
                    throw new Refusal($"The {what} has more than {count - 1} {list}, which is more than a shot can hold.");
                }
                if (reader.TokenType == JsonTokenType.Null && !isNamed)
                {
                    var line = utf8[..(int)reader.TokenStartIndex].Count((byte)'\n') + 1;
                    throw new Refusal($"The {what} cannot be read at line {line}: there is a null where an object belongs; take it out.");
                }
                if (reader.TokenType == JsonTokenType.Number && !double.IsFinite(reader.GetDouble()))
                {
                    var line = utf8[..(int)reader.TokenStartIndex].Count((byte)'\n') + 1;
                    throw new Refusal($"The {what} cannot be read at line {line}: the number {Encoding.UTF8.GetString(reader.ValueSpan[..Math.Min(20, reader.ValueSpan.Length)])} is not finite; give a smaller one.");
                }
                isNamed = reader.TokenType == JsonTokenType.PropertyName;
                if (isNamed && reader.CurrentDepth == 1)
                {
                    (list, count) = (reader.ValueTextEquals("nodes"u8) ? "objects" : reader.ValueTextEquals("materials"u8) ? "materials" : "", 0);
                }
                if (isNamed && reader.CurrentDepth == 1 && reader.ValueTextEquals("version"u8)
                    && reader.Read() && reader.TokenType == JsonTokenType.Number && reader.TryGetInt32(out var version) && version > Shot.CurrentVersion)
                {
                    throw new Refusal($"This shot was written by a newer version (format {version}; this program reads up to {Shot.CurrentVersion}): update the program.");
                }
            }
        }
        catch (JsonException)
        {
            // Reading it in earnest gives the better message.
        }
    }

    private static string Explain(JsonException e, string what, string json)
    {
        var inner = e.InnerException is Refusal refusal ? refusal.Message : null;
        if (inner is not null)
        {
            return $"The {what} cannot be read at {Where(e)}: {inner}";
        }
        if (string.IsNullOrWhiteSpace(json))
        {
            return $"The {what} is empty: expected a JSON object.";
        }
        var lines = json.Count(c => c == '\n');
        if (e.LineNumber >= lines && !Balanced(json))
        {
            return $"The {what} ends in the middle (line {e.LineNumber + 1}): it seems to have been cut off; get the whole file.";
        }
        return $"The {what} cannot be read at {Where(e)}: {Sentence(e.Message)}";
    }

    private static bool Balanced(string json) => json.Trim() is not ['{' or '[', ..] or [.., '}' or ']'];

    private static string Where(JsonException e) =>
        $"line {(e.LineNumber ?? 0) + 1}{(e.Path is { Length: > 1 } path ? $", {path}" : "")}";

    /// <summary>What the reader says, in words of the format and not of the program.</summary>
    private static string Sentence(string message)
    {
        if (Quoted(message, "JSON property '", "' could not be mapped") is { } member)
        {
            return $"“{member}” is not known here; it may be mistyped, or come from a newer version: take it out, or update the program.";
        }
        if (Quoted(message, "unrecognized type discriminator id '", "'") is { } kind)
        {
            return $"the kind “{kind}” is not known; it may be mistyped, or come from a newer version: see docs/format.md for those that there are.";
        }
        if (Quoted(message, "Duplicate property '", "'") is { } twice)
        {
            return $"“{twice}” stands there twice: leave one.";
        }
        if (message.StartsWith("The JSON value could not be converted", StringComparison.Ordinal))
        {
            return "the value is not of the kind that belongs there.";
        }
        var end = message.IndexOf(" Path:", StringComparison.Ordinal);
        var text = (end > 0 ? message[..end] : message).Trim().TrimEnd('.');
        return text.Length == 0 ? "it is not valid." : $"{char.ToLowerInvariant(text[0])}{text[1..]}.";
    }

    private static string? Quoted(string message, string before, string after)
    {
        var at = message.IndexOf(before, StringComparison.Ordinal);
        var end = at < 0 ? -1 : message.IndexOf(after, at + before.Length, StringComparison.Ordinal);
        return end < 0 ? null : message[(at + before.Length)..end];
    }
}
