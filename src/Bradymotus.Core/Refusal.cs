namespace Bradymotus.Core;

/// <summary>Something that cannot be done. The message is one sentence for a person: what is wrong, where, and what to do.</summary>
public sealed class Refusal : Exception
{
    public Refusal(string message) : base(message) { }

    public Refusal(string message, Exception inner) : base(message, inner) { }

    public Refusal() { }
}
