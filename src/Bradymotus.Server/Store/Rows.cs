using System.ComponentModel.DataAnnotations;

namespace Bradymotus.Server.Store;

/// <summary>A shot of the library. Its states are in <see cref="SnapshotRow"/> and <see cref="JournalRow"/>.</summary>
public sealed class ShotRow
{
    [Key, MaxLength(32)]
    public required string Id { get; init; }

    [MaxLength(200)]
    public required string Name { get; set; }

    public DateTime Created { get; init; }

    public DateTime Changed { get; set; }

    /// <summary>When it went into the trash; null while it is in the library.</summary>
    public DateTime? Deleted { get; set; }

    /// <summary>The newest line of the journal.</summary>
    public int Revision { get; set; }
}

/// <summary>A whole state of a shot, so that it opens without replaying its whole journal.</summary>
public sealed class SnapshotRow
{
    [MaxLength(32)]
    public required string ShotId { get; init; }

    public int Revision { get; init; }

    public required string Json { get; init; }
}

/// <summary>One line of a shot's journal.</summary>
public sealed class JournalRow
{
    [MaxLength(32)]
    public required string ShotId { get; init; }

    public int Revision { get; init; }

    /// <summary>Given by who made it; unique in the journal. Null where nobody cared.</summary>
    [MaxLength(64)]
    public string? EntryId { get; init; }

    public required string Json { get; init; }

    /// <summary>The earliest state that it needs, for lines that go back or leave out; null for changes.</summary>
    public int? Needs { get; init; }

    /// <summary>It could not be read when the shot was opened: it is kept, and counts for nothing.</summary>
    public bool Unreadable { get; set; }

    [MaxLength(300)]
    public required string Label { get; init; }

    public DateTime Time { get; init; }
}

/// <summary>How a render, or one frame of it, stands.</summary>
public enum RenderState
{
    Queued,
    Running,
    Done,
    Cancelled,
    Failed,
}

/// <summary>A sequence that is rendered or shall be, with the state of the shot that makes it.</summary>
public sealed class RenderRow
{
    [Key, MaxLength(32)]
    public required string Id { get; init; }

    [MaxLength(32)]
    public required string ShotId { get; init; }

    [MaxLength(200)]
    public required string ShotName { get; init; }

    public int ShotRevision { get; init; }

    /// <summary>Of orders made before shots of renders were assets; empty once it is one.</summary>
    public string ShotJson { get; init; } = "";

    /// <summary>The asset that is the shot as it was when this was ordered; null for older ones.</summary>
    [MaxLength(64)]
    public string? ShotAsset { get; init; }

    /// <summary>The run of the machine in which its frames were begun last; see <see cref="RenderFrameRow.Begun"/>.</summary>
    [MaxLength(64)]
    public string? Boot { get; set; }

    [MaxLength(60)]
    public required string Frames { get; init; }

    public int Width { get; init; }

    public int Height { get; init; }

    [MaxLength(20)]
    public required string Quality { get; init; }

    [MaxLength(100)]
    public string? Camera { get; init; }

    [MaxLength(150)]
    public required string FileName { get; init; }

    public double FramesPerSecond { get; init; }

    public DateTime Created { get; init; }

    public RenderState State { get; set; }

    [MaxLength(1000)]
    public string? Message { get; set; }

    /// <summary>Marked to be kept when old sequences are cleared away.</summary>
    public bool Kept { get; set; }

    /// <summary>When it went into the trash; its pictures go a day later.</summary>
    public DateTime? Deleted { get; set; }
}

/// <summary>One frame of a sequence.</summary>
public sealed class RenderFrameRow
{
    [MaxLength(32)]
    public required string RenderId { get; init; }

    public int Frame { get; init; }

    public RenderState State { get; set; }

    /// <summary>How often it was begun in this run of the machine, and neither finished nor stopped.</summary>
    public int Begun { get; set; }

    /// <summary>How long it took.</summary>
    public double Milliseconds { get; set; }
}

/// <summary>A pose or a motion of the shelf.</summary>
public sealed class SavedRow
{
    [Key, MaxLength(32)]
    public required string Id { get; init; }

    [MaxLength(200)]
    public required string Name { get; set; }

    [MaxLength(10)]
    public required string Kind { get; init; }

    public required string Json { get; init; }

    /// <summary>The objects that it was taken from, a line each; the first ones.</summary>
    [MaxLength(2000)]
    public required string Objects { get; init; }

    public int ObjectCount { get; init; }

    public int Channels { get; init; }

    public DateTime Created { get; init; }

    /// <summary>When it went into the trash; null while it is on the shelf.</summary>
    public DateTime? Deleted { get; set; }

    /// <summary>How many pictures lie beside each other in <see cref="SavedPictureRow.Bytes"/>; 0 where there are none.</summary>
    public int Pictures { get; set; }
}

/// <summary>What a pose or a motion of the shelf looks like.</summary>
public sealed class SavedPictureRow
{
    [Key, MaxLength(32)]
    public required string SavedId { get; init; }

    /// <summary>JPEG, PNG or WebP.</summary>
    public required byte[] Bytes { get; set; }
}
