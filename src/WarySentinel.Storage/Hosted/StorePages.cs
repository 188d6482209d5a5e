using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Hosted;
using WarySentinel.Storage.Hosted;

namespace WarySentinel.Storage;

/// <summary>A piece of a version of a page in which a word was found.</summary>
public sealed record PageFinding(string Page, int Version, int Piece, string If);

/// <summary>A version of a page, without its text.</summary>
public sealed record PageVersionNamed(int Number, string Title, string By, DateTimeOffset At);

/// <summary>A draft, without its text.</summary>
public sealed record PageDraftNamed(string Page, int Version, string By, DateTimeOffset At);

/// <summary>A file of a page, without its content.</summary>
public sealed record PageFileNamed(string Name, string Type, int Size, string Digest, string By, DateTimeOffset At);

/// <summary>Hosted pages: texts, versions, drafts, files, and what is found in them.</summary>
public sealed partial class Store
{
    /// <summary>A version of a page; null where there is none.</summary>
    public async Task<PageVersion?> PageVersionAsync(string page, int number, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.PageVersions.AsNoTracking().FirstOrDefaultAsync(v => v.Page == page && v.Number == number, stop))?.ToVersion();
    }

    /// <summary>The versions of a page, the newest first.</summary>
    public async Task<IReadOnlyList<PageVersionNamed>> PageVersionsAsync(string page, int? before, int most, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PageVersions.AsNoTracking().Where(v => v.Page == page && (before == null || v.Number < before)).OrderByDescending(v => v.Number)
            .Take(most)
            .Select(v => new PageVersionNamed(v.Number, v.Title, v.By, v.At)).ToListAsync(stop);
    }

    /// <summary>What is being written on a page; null where nothing is.</summary>
    public async Task<PageDraftText?> PageDraftAsync(string page, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.PageDrafts.AsNoTracking().FirstOrDefaultAsync(d => d.Page == page, stop))?.ToDraft();
    }

    /// <summary>All drafts, by page.</summary>
    public async Task<IReadOnlyDictionary<string, PageDraftNamed>> PageDraftsAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PageDrafts.AsNoTracking().Select(d => new PageDraftNamed(d.Page, d.Version, d.By, d.At)).ToDictionaryAsync(d => d.Page, stop);
    }

    /// <summary>The files of a page, by name.</summary>
    public async Task<IReadOnlyList<PageFileNamed>> PageFilesAsync(string page, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PageFiles.AsNoTracking().Where(f => f.Page == page).OrderBy(f => f.Name)
            .Select(f => new PageFileNamed(f.Name, f.Type, f.Size, f.Digest, f.By, f.At)).ToListAsync(stop);
    }

    /// <summary>How large the pictures of a page are, in pixels, by their names.</summary>
    public async Task<IReadOnlyDictionary<string, (int Width, int Height)>> PictureSizesAsync(string page, CancellationToken stop = default)
    {
        await using var db = open();
        var found = await db.PageFiles.AsNoTracking().Where(f => f.Page == page && f.Width != null && f.Height != null)
            .Select(f => new { f.Name, f.Width, f.Height }).ToListAsync(stop);
        return found.ToDictionary(f => f.Name, f => (f.Width!.Value, f.Height!.Value), StringComparer.Ordinal);
    }

    /// <summary>A file of a page; null where there is none.</summary>
    public async Task<PageFile?> PageFileAsync(string page, string name, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PageFiles.AsNoTracking().Where(f => f.Page == page && f.Name == name)
            .Select(f => new PageFile(f.Page, f.Name, f.Type, f.Content, f.By, f.At)).FirstOrDefaultAsync(stop);
    }

    /// <summary>How many bytes all files of pages have together.</summary>
    public async Task<long> PageFileBytesAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.PageFiles.SumAsync(f => (long)f.Size, stop);
    }

    /// <summary>The pieces of pages in which a word stands that begins so.</summary>
    public async Task<IReadOnlyList<PageFinding>> FindInPagesAsync(string word, int most, CancellationToken stop = default)
    {
        await using var db = open();
        return await PageIndex.FindAsync(db, word, most, stop);
    }
}
