using System.Text.Json;
using System.Text.Json.Serialization;
using Bradymotus.Core.Time;
using Bradymotus.Formats.Outlines;

namespace Bradymotus.Reader;

/// <summary>What the process that reads foreign bytes is asked for: a line of JSON a request.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(ReadModel), "model")]
[JsonDerivedType(typeof(ReadPicture), "picture")]
[JsonDerivedType(typeof(ReadSound), "sound")]
[JsonDerivedType(typeof(ReadFilm), "film")]
[JsonDerivedType(typeof(ReadText), "text")]
[JsonDerivedType(typeof(ReadJoin), "join")]
public abstract record ReadRequest
{
    /// <summary>What is read, for a sentence: the name of a file.</summary>
    [JsonIgnore]
    public abstract string What { get; }

    /// <summary>The folder for what comes of it; null where all of that is in the answer.</summary>
    [JsonIgnore]
    public virtual string? Folder => null;
}

/// <summary>A file of another program, or a shot, with those that lie beside it.</summary>
/// <param name="Name">Which of the files.</param>
/// <param name="Files">Where the bytes of each lie.</param>
/// <param name="Made">The folder for what comes of them: the assets, and the shot as <see cref="ShotName"/>.</param>
public sealed record ReadModel(string Name, IReadOnlyDictionary<string, string> Files, FrameRate? Rate, string Made) : ReadRequest
{
    /// <summary>The name of the shot's file in the folder.</summary>
    public const string ShotName = "shot";

    public override string What => Name;

    public override string? Folder => Made;
}

/// <summary>A picture for a map or the sky.</summary>
public sealed record ReadPicture(string Name, string File, bool IsSky, string Made) : ReadRequest
{
    public override string What => Name;

    public override string? Folder => Made;
}

/// <summary>A sound for a shot.</summary>
public sealed record ReadSound(string Name, string File, string Made) : ReadRequest
{
    public override string What => Name;

    public override string? Folder => Made;
}

/// <summary>A film for reference.</summary>
public sealed record ReadFilm(string Name, string File, string Made) : ReadRequest
{
    public override string What => Name;

    public override string? Folder => Made;
}

/// <summary>The outline of words.</summary>
public sealed record ReadText(string Text, string? Font) : ReadRequest
{
    public override string What => "The text";
}

/// <summary>Several outlines as one.</summary>
public sealed record ReadJoin(IReadOnlyList<PlacedOutline> Outlines, OutlineJoin How) : ReadRequest
{
    public override string What => "This set of outlines";
}

/// <summary>A line of an answer: how much is done, why nothing has come of it, or what has.</summary>
/// <param name="Part">So much is done, from 0 to 1; more lines follow.</param>
/// <param name="Refused">A sentence that says what is wrong.</param>
/// <param name="IsOver">It has reached its bound of memory, and can be used no more.</param>
/// <param name="Result">What has come of it, as the request has it.</param>
public sealed record ReadAnswer(double? Part = null, string? Refused = null, bool IsOver = false, JsonElement? Result = null);

/// <summary>What has come of a model; its shot and its assets lie in the folder.</summary>
public sealed record ModelResult(IReadOnlyList<string> Imported, IReadOnlyList<string> Skipped);

/// <summary>A picture, a sound or a film; its asset lies in the folder.</summary>
/// <param name="Asset">The name of the asset.</param>
/// <param name="Name">As a shot can have it.</param>
/// <param name="Width">In pixels; 0 for a sound.</param>
/// <param name="Height">In pixels; 0 for a sound.</param>
/// <param name="FramesPerSecond">Of a film.</param>
/// <param name="Seconds">How long a sound or a film is.</param>
public sealed record MediaResult(string Asset, string Name, int Width = 0, int Height = 0, double FramesPerSecond = 0, double Seconds = 0);

/// <summary>An outline as SVG path data.</summary>
public sealed record OutlineResult(string Path);

/// <summary>How requests and answers are written.</summary>
public static class ReaderJson
{
    /// <summary>With numbers that are none, so that they come to who refuses them.</summary>
    public static JsonSerializerOptions Options { get; } = new() { NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals };
}
