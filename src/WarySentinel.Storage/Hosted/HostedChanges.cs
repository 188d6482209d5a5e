using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Hosted;

namespace WarySentinel.Storage.Hosted;

/// <summary>How hosted pages are stored, their versions, drafts and files, and the words by which they are found.</summary>
internal static class HostedChanges
{
    /// <summary>Versions of a page beyond so many go, the oldest first, unless they are served.</summary>
    private const int MostVersions = 500;

    public static void Register(Writers writers)
    {
        writers.On<SectionPut>((w, put) => w.PutAsync(SectionRow.Of(put.Section), put.Section.Key));
        writers.On<SectionDropped>((w, dropped) => w.Db.Sections.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.On<HostedPagePut>((w, put) => w.PutAsync(HostedPageRow.Of(put.Page), put.Page.Key));
        writers.On<HostedPageDropped>(DropAsync);
        writers.On<PageVersionAdded>(AddAsync);
        writers.On<PageDraftSet>(WriteAsync);
        writers.On<PageDraftDropped>((w, dropped) => w.Db.PageDrafts.Where(r => r.Page == dropped.Page).ExecuteDeleteAsync(w.Stop));
        writers.On<PageFilePut>((w, put) => w.PutAsync(PageFileRow.Of(put.File), put.File.Page, put.File.Name));
        writers.On<PageFileDropped>(
            (w, dropped) => w.Db.PageFiles.Where(r => r.Page == dropped.Page && r.Name == dropped.Name).ExecuteDeleteAsync(w.Stop));
        writers.Also<FactReplaced>(ReplaceAsync);
    }

    private static async Task DropAsync(Writing w, HostedPageDropped dropped)
    {
        await w.Db.HostedPages.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop);
        await w.Db.PageVersions.Where(r => r.Page == dropped.Key).ExecuteDeleteAsync(w.Stop);
        await w.Db.PageDrafts.Where(r => r.Page == dropped.Key).ExecuteDeleteAsync(w.Stop);
        await w.Db.PageFiles.Where(r => r.Page == dropped.Key).ExecuteDeleteAsync(w.Stop);
        await PageIndex.DropAsync(w.Db, dropped.Key, w.Stop);
    }

    private static async Task AddAsync(Writing w, PageVersionAdded added)
    {
        var (page, number) = (added.Version.Page, added.Version.Number);
        w.Db.PageVersions.Add(PageVersionRow.Of(added.Version));
        await w.SaveAsync();
        await w.Db.PageVersions.Where(r => r.Page == page && r.Number <= number - MostVersions && !added.Served.Contains(r.Number))
            .ExecuteDeleteAsync(w.Stop);
        await PageIndex.PutAsync(w.Db, page, number, added.Words, added.Served, w.Stop);
    }

    private static async Task WriteAsync(Writing w, PageDraftSet set)
    {
        var row = PageDraftRow.Of(set.Draft);
        var old = await w.Db.PageDrafts.FindAsync([row.Page], w.Stop);
        if ((old?.Version ?? 0) != set.Was)
        {
            throw new StoreRefusedException(Problem.Of(ProblemKind.Stale, "stale", "page:" + row.Page));
        }

        if (old is null)
        {
            w.Db.Add(row);
        }
        else
        {
            w.Db.Entry(old).CurrentValues.SetValues(row);
        }

        await w.SaveAsync();
    }

    /// <summary>Pages that ask for a fact ask for what stands in its place; their texts stay as they were written.</summary>
    private static async Task ReplaceAsync(Writing w, FactReplaced replaced)
    {
        await w.SaveAsync();
        var before = new HostedBook([], (await w.Db.HostedPages.AsNoTracking().ToListAsync(w.Stop)).Select(r => r.ToPage()).Where(r => r.Fault is null)
            .Select(r => r.Page!));
        foreach (var page in ((HostedBook)before.Mapped(replaced.In)).Changed(before))
        {
            await w.PutAsync(HostedPageRow.Of(page), page.Key);
        }

        w.Db.ChangeTracker.Clear();
    }
}
