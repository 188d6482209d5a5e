using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.People;

/// <summary>How links that work once are stored, used up and closed.</summary>
internal static class LinkChanges
{
    public static void Register(Writers writers)
    {
        writers.Gather<LinkAdded>((w, added) => w.Rows.Insert(LinkRow.Of(added.Link)));
        writers.On<LinkUsed>(async (w, used) =>
        {
            var done = await w.Db.Links.Where(l => l.Id == used.Id && l.ClosedAt == null && l.Until > w.Now).ExecuteUpdateAsync(
                set => set.SetProperty(l => l.ClosedAt, w.Now).SetProperty(l => l.ClosedBy, (int)LinkEnd.Used), w.Stop);
            if (done != 1)
            {
                throw new StoreMovedException();
            }
        });
        // Two on two machines who see nothing of each other yet meet at the index of open links.
        writers.On<NoLinkSince>(async (w, none) =>
        {
            if (await w.Db.Links.AnyAsync(l => l.Subject == none.Subject && l.Purpose == (int)none.Purpose && l.CreatedAt > none.Since, w.Stop))
            {
                throw new StoreMovedException();
            }
        });
        writers.On<LinksClosed>((w, closed) => w.Db.Links
            .Where(l => (closed.Purpose == null || l.Purpose == (int)closed.Purpose) && l.Subject == closed.Subject && l.ClosedAt == null
                && (closed.Address == null || l.Address == closed.Address))
            .ExecuteUpdateAsync(set => set.SetProperty(l => l.ClosedAt, w.Now).SetProperty(l => l.ClosedBy, (int)closed.By), w.Stop));
        writers.Also<MemberErased>((w, erased) => w.Db.Links
            .Where(l => l.Address == erased.Email || l.Subject == erased.Member).ExecuteDeleteAsync(w.Stop));
    }
}
