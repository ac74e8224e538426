using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using Bradymotus.Core.Curves;
using Bradymotus.Core.Editing;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Serialization;

/// <summary>The formats as JSON Schema, made from the types themselves. The TypeScript types are generated from these.</summary>
public static class Schemas
{
    /// <summary>The schema of <c>shot</c>, <c>curve</c>, <c>journal</c> or <c>saved</c>.</summary>
    /// <exception cref="Refusal">There is no such format.</exception>
    public static string Of(string what)
    {
        var type = what switch
        {
            "shot" => typeof(Shot),
            "curve" => typeof(Curve),
            "journal" => typeof(JournalEntry),
            "saved" => typeof(Saved),
            _ => throw new Refusal($"There is no schema of “{what}”: choose shot, curve, journal or saved."),
        };
        var schema = ShotJson.Options.GetJsonSchemaAsNode(type, new JsonSchemaExporterOptions
        {
            TreatNullObliviousAsNonNullable = true,
            TransformSchemaNode = Describe,
        });
        return schema.ToJsonString(ShotJson.Indented);
    }

    private static JsonNode Describe(JsonSchemaExporterContext context, JsonNode schema)
    {
        // These are written by hand, so they are described by hand.
        if (context.TypeInfo.Type == typeof(Segment))
        {
            var families = new JsonArray([.. Enum.GetNames<EaseFamily>().Select(n => (JsonNode)Camel(n))]);
            var directions = new JsonArray([.. Enum.GetNames<EaseDirection>().Select(n => (JsonNode)Camel(n))]);
            return new JsonObject
            {
                ["anyOf"] = new JsonArray(
                    new JsonObject { ["enum"] = new JsonArray("bezier", "linear", "hold") },
                    new JsonObject
                    {
                        ["type"] = "object",
                        ["properties"] = new JsonObject
                        {
                            ["ease"] = new JsonObject { ["enum"] = families },
                            ["direction"] = new JsonObject { ["enum"] = directions },
                            ["overshoot"] = new JsonObject { ["type"] = "number" },
                            ["amplitude"] = new JsonObject { ["type"] = "number" },
                            ["period"] = new JsonObject { ["type"] = "number" },
                        },
                        ["required"] = new JsonArray("ease"),
                        ["additionalProperties"] = false,
                    }),
            };
        }
        if (context.TypeInfo.Type == typeof(ChannelAddress))
        {
            return new JsonObject { ["type"] = "string", ["pattern"] = "^[A-Za-z0-9_-]+/.+$" };
        }
        if (context.TypeInfo.Type == typeof(Numerics.Affine) || context.TypeInfo.Type == typeof(Numerics.Affine?))
        {
            return new JsonObject { ["type"] = "array", ["items"] = new JsonObject { ["type"] = "number" }, ["minItems"] = 16, ["maxItems"] = 16 };
        }
        // The kind says what the rest is, so it is never left out.
        if (schema is JsonObject { } o && o["properties"]?["kind"]?["const"] is not null)
        {
            var required = o["required"] as JsonArray ?? [];
            o["required"] = new JsonArray(["kind", .. required.Select(r => (JsonNode?)r!.GetValue<string>()).Where(r => r!.GetValue<string>() != "kind")]);
        }
        return schema;
    }

    private static string Camel(string name) => char.ToLowerInvariant(name[0]) + name[1..];
}
