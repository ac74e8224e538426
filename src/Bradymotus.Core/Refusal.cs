namespace Bradymotus.Core;

/// <summary>
/// Something that cannot be done. The message is one sentence for a person: what is wrong, where, and what to do. What it quotes may come from
/// anywhere: control characters become spaces, so that it stays one line.
/// </summary>
public sealed class Refusal : Exception
{
    /// <summary>A refusal in one sentence: what is wrong, where, what to do.</summary>
    public Refusal(string message) : base(OneLine(message)) { }

    /// <summary>A refusal with what brought it about.</summary>
    public Refusal(string message, Exception inner) : base(OneLine(message), inner) { }

    /// <summary>A refusal without a word.</summary>
    public Refusal() { }

    private static string OneLine(string message) => message.Any(char.IsControl) ? string.Concat(message.Select(c => char.IsControl(c) ? ' ' : c)) : message;
}
