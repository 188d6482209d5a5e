using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Service.Pages;

/// <summary>A folder of files that somebody may have.</summary>
/// <param name="Title">What people call it.</param>
/// <param name="Path">Where it is found, beneath our own pages.</param>
/// <param name="Until">Until when that leads there; null for as long as they may have it.</param>
public sealed record FolderLink(string Title, string Path, DateTimeOffset? Until);

/// <summary>Knows which folders somebody may have, and where they are found now.</summary>
public interface IFolders
{
    /// <summary>The folders that the gates let a visitor have and keep from guests.</summary>
    IReadOnlyList<FolderLink> For(Policy policy, Visitor visitor, DateTimeOffset now);

    /// <summary>The folders that somebody may have by what they were given, and might not without; by their present address, where that alone opens.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="with">The visitor as they are with it.</param>
    /// <param name="without">The visitor as they are without.</param>
    /// <param name="bought">Items that were given.</param>
    /// <param name="now">The time.</param>
    IReadOnlyList<FolderLink> Given(Policy policy, Visitor with, Visitor without, IReadOnlyCollection<ItemId> bought, DateTimeOffset now);

    /// <summary>The folders of items and of what stands beneath them that their present address alone opens.</summary>
    IReadOnlyList<FolderLink> Open(Policy policy, IReadOnlyCollection<ItemId> items, DateTimeOffset now);
}
