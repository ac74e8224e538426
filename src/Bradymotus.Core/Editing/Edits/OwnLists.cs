using System.Collections.Immutable;

namespace Bradymotus.Core.Editing;

/// <summary>What edits of the shot's own lists share, as those of markers, sounds and sets.</summary>
internal static class OwnLists
{
    /// <summary>Puts something in the place of what has its id, or at the end.</summary>
    internal static ImmutableArray<T> With<T>(this ImmutableArray<T> list, T item, Func<T, string> id)
    {
        for (var i = 0; i < list.Length; i++)
        {
            if (id(list[i]) == id(item))
            {
                return list.SetItem(i, item);
            }
        }
        return list.Add(item);
    }

    /// <summary>Takes what has these ids out.</summary>
    /// <param name="what">What one of them is, for a refusal.</param>
    /// <exception cref="Refusal">One of them is not there.</exception>
    internal static ImmutableArray<T> Without<T>(this ImmutableArray<T> list, IReadOnlyList<string> ids, Func<T, string> id, string what)
    {
        var there = list.Select(id).ToHashSet();
        return ids.FirstOrDefault(i => !there.Contains(i)) is { } missing
            ? throw new Refusal($"There is no {what} “{missing}” in the shot: it may have been removed.")
            : list.RemoveAll(item => ids.Contains(id(item)));
    }
}
