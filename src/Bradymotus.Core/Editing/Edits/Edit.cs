using System.Text.Json.Serialization;
using Bradymotus.Core.Scene;

namespace Bradymotus.Core.Editing;

/// <summary>
/// A change to a shot, as data: it can be sent, kept in a journal, and applied again with the same result.
/// A new kind is one record with its <see cref="Make"/> and a line below.
/// </summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(SetValues), "setValues")]
[JsonDerivedType(typeof(SetKeys), "setKeys")]
[JsonDerivedType(typeof(LockChannels), "lockChannels")]
[JsonDerivedType(typeof(MuteChannels), "muteChannels")]
[JsonDerivedType(typeof(MeanFindings), "meanFindings")]
[JsonDerivedType(typeof(TraceVertices), "traceVertices")]
[JsonDerivedType(typeof(InsertKeys), "insertKeys")]
[JsonDerivedType(typeof(PutKeys), "putKeys")]
[JsonDerivedType(typeof(HoldUntil), "holdUntil")]
[JsonDerivedType(typeof(RemoveKeys), "removeKeys")]
[JsonDerivedType(typeof(TransformKeys), "transformKeys")]
[JsonDerivedType(typeof(StaggerKeys), "staggerKeys")]
[JsonDerivedType(typeof(ReverseKeys), "reverseKeys")]
[JsonDerivedType(typeof(SetSegments), "setSegments")]
[JsonDerivedType(typeof(SetHandle), "setHandle")]
[JsonDerivedType(typeof(SetHandleKinds), "setHandleKinds")]
[JsonDerivedType(typeof(SetExtrapolation), "setExtrapolation")]
[JsonDerivedType(typeof(SetCurve), "setCurve")]
[JsonDerivedType(typeof(MakeSeamless), "makeSeamless")]
[JsonDerivedType(typeof(UnrollRotations), "unrollRotations")]
[JsonDerivedType(typeof(SimplifyKeys), "simplifyKeys")]
[JsonDerivedType(typeof(BakeKeys), "bakeKeys")]
[JsonDerivedType(typeof(SmoothKeys), "smoothKeys")]
[JsonDerivedType(typeof(RemoveIdleKeys), "removeIdleKeys")]
[JsonDerivedType(typeof(AddNoise), "addNoise")]
[JsonDerivedType(typeof(Retime), "retime")]
[JsonDerivedType(typeof(EasesToHandles), "easesToHandles")]
[JsonDerivedType(typeof(ConvertRate), "convertRate")]
[JsonDerivedType(typeof(HoldPose), "holdPose")]
[JsonDerivedType(typeof(KeyRange), "keyRange")]
[JsonDerivedType(typeof(MirrorPose), "mirrorPose")]
[JsonDerivedType(typeof(ShapeSegments), "shapeSegments")]
[JsonDerivedType(typeof(PutMarker), "putMarker")]
[JsonDerivedType(typeof(RemoveMarkers), "removeMarkers")]
[JsonDerivedType(typeof(PutSet), "putSet")]
[JsonDerivedType(typeof(RemoveSets), "removeSets")]
[JsonDerivedType(typeof(AddLayer), "addLayer")]
[JsonDerivedType(typeof(RemoveLayer), "removeLayer")]
[JsonDerivedType(typeof(SetLayer), "setLayer")]
[JsonDerivedType(typeof(MoveLayer), "moveLayer")]
[JsonDerivedType(typeof(MergeLayer), "mergeLayer")]
[JsonDerivedType(typeof(BakeLayers), "bakeLayers")]
[JsonDerivedType(typeof(PutMotion), "putMotion")]
[JsonDerivedType(typeof(PutSound), "putSound")]
[JsonDerivedType(typeof(RemoveSounds), "removeSounds")]
[JsonDerivedType(typeof(AddNodes), "addNodes")]
[JsonDerivedType(typeof(DuplicateNodes), "duplicateNodes")]
[JsonDerivedType(typeof(AddInstances), "addInstances")]
[JsonDerivedType(typeof(PlaceInstances), "placeInstances")]
[JsonDerivedType(typeof(HangInstances), "hangInstances")]
[JsonDerivedType(typeof(MakeReal), "makeReal")]
[JsonDerivedType(typeof(Unfollow), "unfollow")]
[JsonDerivedType(typeof(RemoveNodes), "removeNodes")]
[JsonDerivedType(typeof(Rename), "rename")]
[JsonDerivedType(typeof(Reparent), "reparent")]
[JsonDerivedType(typeof(ReplaceNode), "replaceNode")]
[JsonDerivedType(typeof(SetRotationOrder), "setRotationOrder")]
[JsonDerivedType(typeof(MovePivots), "movePivots")]
[JsonDerivedType(typeof(KeepBelow), "keepBelow")]
[JsonDerivedType(typeof(AddMaterial), "addMaterial")]
[JsonDerivedType(typeof(RemoveMaterial), "removeMaterial")]
[JsonDerivedType(typeof(SetMaps), "setMaps")]
[JsonDerivedType(typeof(SetShot), "setShot")]
[JsonDerivedType(typeof(ReplaceShot), "replaceShot")]
[JsonDerivedType(typeof(Batch), "batch")]
public abstract record Edit
{
    /// <summary>The shot after the change; the argument stays as it is. The result keeps to the rules of a shot, so it can be saved and read again.</summary>
    /// <param name="shot">A shot that keeps to the rules.</param>
    /// <param name="cancel">Asked now and then in changes of many parts.</param>
    /// <exception cref="Refusal">The change cannot be made; nothing has happened.</exception>
    /// <exception cref="OperationCanceledException">Cancelled; nothing has happened.</exception>
    public Shot Apply(Shot shot, CancellationToken cancel = default)
    {
        var after = Make(shot, cancel);
        ShotRules.ValidateChange(shot, after);
        return after;
    }

    /// <summary>Makes the change. What breaks a rule of the shot is found afterwards.</summary>
    protected abstract Shot Make(Shot shot, CancellationToken cancel);

    /// <summary>A few words for the history, such as “Move 3 keys”.</summary>
    public abstract string Describe(Shot before);

    /// <exception cref="Refusal">The channel is locked.</exception>
    private protected static void Unlocked(Shot shot, ChannelAddress address, Channel channel)
    {
        if (address.Layer is { } layer && shot.FindLayer(layer) is { Locked: true, Name: var name })
        {
            throw new Refusal($"The layer “{name}” is locked: unlock it first, with the lock on its strip beside the tracks.");
        }
        if (channel.Locked)
        {
            throw new Refusal($"{Names.Of(shot, address)} is locked: unlock it first, with the right button on its name in the values.");
        }
    }

    private protected static string Plural(int count, string one) => count == 1 ? one : $"{count} {one}s";
}

/// <summary>Several changes that are one step in the history.</summary>
/// <param name="Label">For the history.</param>
/// <param name="Edits">In order.</param>
public sealed record Batch(string Label, IReadOnlyList<Edit> Edits) : Edit
{
    /// <inheritdoc/>
    protected override Shot Make(Shot shot, CancellationToken cancel) => Edits.Aggregate(shot, (s, e) =>
    {
        cancel.ThrowIfCancellationRequested();
        return e.Apply(s, cancel);
    });

    /// <inheritdoc/>
    public override string Describe(Shot before) => Label;
}
