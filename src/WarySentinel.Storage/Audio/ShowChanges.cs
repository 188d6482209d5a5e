using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Audio;
using WarySentinel.Core.People;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Storage.Audio;

/// <summary>How shows and their subscribers are stored.</summary>
internal static class ShowChanges
{
    public static void Register(Writers writers)
    {
        writers.On<ShowPut>((w, put) => w.PutAsync(ShowRow.Of(put.Show), put.Show.Key));
        writers.On<ShowFileChanged>((_, _) => Task.CompletedTask);
        writers.On<ShowDropped>((w, dropped) => w.Db.Shows.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.Gather<SubscriberAdded>((w, added) => w.Rows.Insert(SubscriberRow.Of(added.Subscriber)));
        writers.On<SubscriberRenewed>(async (w, renewed) =>
        {
            var fresh = renewed.Subscriber;
            var done = await w.Db.Subscribers.Where(s => s.Id == fresh.Id && s.Number == renewed.From).ExecuteUpdateAsync(
                set => set.SetProperty(s => s.Number, fresh.Number).SetProperty(s => s.Since, fresh.Since).SetProperty(s => s.ReadAt, (DateTimeOffset?)null)
                    .SetProperty(s => s.ReadBy, (string?)null), w.Stop);
            if (done != 1)
            {
                throw new StoreMovedException();
            }

            // Whoever reads by the address before is known by the member on every machine.
            w.News.Tell(Told.Member, fresh.Member.ToString("N"));
        });
        writers.Also<MemberErased>((w, erased) => w.Db.Subscribers.Where(s => s.MemberId == erased.Member).ExecuteDeleteAsync(w.Stop));
    }
}
