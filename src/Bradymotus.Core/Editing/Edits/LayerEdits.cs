using Bradymotus.Core.Evaluation;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>Adds a layer.</summary>
/// <param name="At">How many lie below it; null puts it on top.</param>
public sealed record AddLayer(Layer Layer, int? At = null) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => At is { } at && (at < 0 || at > shot.Layers.Length)
        ? throw new Refusal($"There is no place {at} for a layer: the shot has {shot.Layers.Length}.")
        : shot with { Layers = shot.Layers.Insert(At ?? shot.Layers.Length, Layer ?? throw new Refusal("A layer is missing: give it an id and a name.")) };

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Add the layer {Layer.Name}";
}

/// <summary>Removes a layer with everything that is keyed in it.</summary>
public sealed record RemoveLayer(string Layer) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var layer = Layers.Free(shot, Layer);
        return Layers.WithoutChannels(shot, l => l == Layer) with { Layers = shot.Layers.Remove(layer) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Remove the layer {before.FindLayer(Layer)?.Name}";
}

/// <summary>Renames a layer, or says how and whether it counts. Its keys and its weight stay.</summary>
/// <param name="Layer">With the id of the layer; its channels are left aside.</param>
public sealed record SetLayer(Layer Layer) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var old = shot.Layer((Layer ?? throw new Refusal("A layer is missing: give it an id and a name.")).Id);
        return shot with { Layers = shot.Layers.Replace(old, Layer with { Channels = old.Channels }) };
    }

    /// <inheritdoc/>
    public override string Describe(Shot before)
    {
        var old = before.FindLayer(Layer.Id);
        return old is null || old.Name != Layer.Name ? $"Rename the layer {old?.Name}"
            : old.Muted != Layer.Muted ? $"{(Layer.Muted ? "Mute" : "Hear")} the layer {Layer.Name}"
            : old.Solo != Layer.Solo ? $"{(Layer.Solo ? "Solo" : "No solo of")} the layer {Layer.Name}"
            : old.Locked != Layer.Locked ? $"{(Layer.Locked ? "Lock" : "Unlock")} the layer {Layer.Name}"
            : $"Let the layer {Layer.Name} {(Layer.Mode == LayerMode.Add ? "add" : "override")}";
    }
}

/// <summary>Puts a layer elsewhere among the others.</summary>
/// <param name="To">How many lie below it afterwards.</param>
public sealed record MoveLayer(string Layer, int To) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var layer = shot.Layer(Layer);
        return To >= 0 && To < shot.Layers.Length
            ? shot with { Layers = shot.Layers.Remove(layer).Insert(To, layer) }
            : throw new Refusal($"There is no place {To} for a layer: the shot has {shot.Layers.Length}.");
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Move the layer {before.FindLayer(Layer)?.Name}";
}

/// <summary>
/// Puts what a layer does into the layer below it, or into the channels themselves where it is the lowest, and removes it. Where one of the two does
/// not change with time the keys stay as they are; elsewhere every frame gets one.
/// </summary>
public sealed record MergeLayer(string Layer) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        var layer = Layers.Free(shot, Layer);
        var place = shot.Layers.IndexOf(layer);
        var below = place > 0 ? Layers.Free(shot, shot.Layers[place - 1].Id) : null;
        // What is not seen would be brought in, or what is seen lost, without a word.
        var active = CompiledLayer.Of(shot.Layers, []).Select(l => l.Layer.Id).ToHashSet();
        foreach (var each in new[] { layer, below }.OfType<Layer>().Where(l => !active.Contains(l.Id)))
        {
            throw new Refusal($"The layer “{each.Name}” is muted, or others are solo, so it cannot be merged as it is seen: take that away first, or remove the layer.");
        }
        return Layers.Merged(shot, layer, below, cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => $"Merge the layer {before.FindLayer(Layer)?.Name} down";
}

/// <summary>Puts what all layers do into the channels themselves, and removes the layers. What is muted, or not among those that are solo, is lost.</summary>
public sealed record BakeLayers : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel)
    {
        foreach (var layer in shot.Layers)
        {
            Layers.Free(shot, layer.Id);
        }
        return Layers.Baked(shot, cancel);
    }

    /// <inheritdoc/>
    public override string Describe(Shot before) => "Bake all layers";
}
