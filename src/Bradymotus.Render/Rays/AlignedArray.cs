using System.Runtime.CompilerServices;

namespace Bradymotus.Render.Rays;

/// <summary>Memory that stays where it is and begins on a cache line, for what is read with whole vectors.</summary>
internal sealed unsafe class AlignedArray<T>
    where T : unmanaged
{
    private readonly byte[] _memory;

    internal AlignedArray(ReadOnlySpan<T> items)
    {
        Count = items.Length;
        _memory = GC.AllocateUninitializedArray<byte>(Math.Max(1, Count) * sizeof(T) + 64, pinned: true);
        Items = (T*)(((nint)Unsafe.AsPointer(ref _memory[0]) + 63) & ~63);
        items.CopyTo(Span);
    }

    internal int Count { get; }

    /// <summary>The first item. Valid as long as this object lives.</summary>
    internal T* Items { get; }

    internal Span<T> Span => new(Items, Count);
}
