using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Access;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.Orders;

/// <summary>How orders, what is told of them, and the rules for them are stored.</summary>
internal static class OrderChanges
{
    private static readonly string[] Whole =
    [
        nameof(OrderRow.Standing), nameof(OrderRow.Handling), nameof(OrderRow.WaitsFor), nameof(OrderRow.MemberId), nameof(OrderRow.OrganisationId),
        nameof(OrderRow.Email),
        nameof(OrderRow.Name), nameof(OrderRow.Codes), nameof(OrderRow.TotalUnits), nameof(OrderRow.Currency), nameof(OrderRow.RefundedUnits),
        nameof(OrderRow.At), nameof(OrderRow.DueAt), nameof(OrderRow.Promises), nameof(OrderRow.Told), nameof(OrderRow.TokenDigest),
        nameof(OrderRow.Search), nameof(OrderRow.Version),
    ];

    private static readonly string[] State = [nameof(OrderEventRow.State), nameof(OrderEventRow.Version)];

    private static readonly string[] Read =
    [
        nameof(OrderEventRow.State), nameof(OrderEventRow.Body), nameof(OrderEventRow.Order), nameof(OrderEventRow.Fault), nameof(OrderEventRow.Version),
    ];

    public static void Register(Writers writers)
    {
        writers.On<FulfilmentPut>((w, put) => w.PutAsync(FulfilmentRow.Of(put.Rule), put.Rule.Key));
        writers.On<FulfilmentDropped>((w, dropped) => w.Db.Fulfilment.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.Also<FactReplaced>(ReplaceAsync);
        writers.On<OrderSourcePut>((w, put) => w.PutAsync(OrderSourceRow.Of(put.Source), put.Source.Key));
        writers.On<OrderSourceDropped>((w, dropped) => w.Db.OrderSources.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
        writers.Gather<OrderPut>((w, put) =>
        {
            if (put.Was == 0)
            {
                w.Rows.Insert(OrderRow.Of(put.Order));
            }
            else
            {
                w.Rows.Update(OrderRow.Of(put.Order), Whole, put.Was);
            }
        });
        writers.Gather<OrderEventAdded>((w, added) => w.Rows.Insert(OrderEventRow.Of(added.Kept)));
        writers.Gather<OrderEventTaken>((w, taken) => w.Rows.Update(
            OrderEventRow.Of(taken.Kept with { State = OrderEventState.Taken, Version = taken.Kept.Version + 1 }), State, taken.Kept.Version));
        writers.Gather<OrderEventRead>((w, read) => w.Rows.Update(
            OrderEventRow.Of(read.Kept with { Version = read.Kept.Version + 1 }), Read, read.Kept.Version));
        writers.On<OrderEventDropped>((w, dropped) => w.Db.OrderEvents.Where(e => e.Id == dropped.Kept.Id && e.Version == dropped.Kept.Version)
            .ExecuteDeleteAsync(w.Stop));
        writers.Gather<Reminded>((w, told) => w.Rows.Insert(new ReminderRow { GrantId = told.Grant, Kind = told.Kind, Until = told.Until }));
        writers.Also<MemberErased>(ForgetAsync);
    }

    /// <summary>
    /// What was bought and paid stays, as books have to be kept; who bought it goes, and who was given it: each of the two where it is whoever is erased.
    /// </summary>
    private static async Task ForgetAsync(Writing w, MemberErased erased)
    {
        var theirs = await w.Db.Orders.Where(o => o.MemberId == erased.Member || o.Email == erased.Email).ToListAsync(w.Stop);
#pragma warning disable CA1304, CA1311, CA1862 // the database puts these into small letters
        var told = await w.Db.OrderEvents.Where(e => e.Body!.ToLower().Contains(erased.Email) || e.Raw!.ToLower().Contains(erased.Email)).ToListAsync(w.Stop);
#pragma warning restore CA1304, CA1311, CA1862
        foreach (var order in theirs)
        {
            told.AddRange(await w.Db.OrderEvents.Where(e => e.Source == order.Source && e.Order == order.Key).ToListAsync(w.Stop));
            (order.Email, order.MemberId, order.TokenDigest) = (erased.Tag, null, null);
        }

        foreach (var row in told.DistinctBy(e => e.Id))
        {
            var order = theirs.Find(o => o.Source == row.Source && o.Key == row.Order)
                ?? await w.Db.Orders.FirstOrDefaultAsync(o => o.Source == row.Source && o.Key == row.Order, w.Stop);
            var kept = row.ToEvent();
            (row.Raw, row.Version) = (null, row.Version + 1);
            if (kept.Event is { } said && row.Body is not null)
            {
                var (forgotten, isPayer) = Forgotten(said, erased, order is not null && theirs.Contains(order));
                row.Body = OrderEventRow.Of(kept with { Event = forgotten }).Body;
                order?.Name = isPayer ? null : order.Name;
            }
        }

        foreach (var order in w.Db.ChangeTracker.Entries<OrderRow>().Select(e => e.Entity).ToList())
        {
            (order.Search, order.Version) = (OrderRow.SearchOf(order.ToOrder()), order.Version + 1);
        }

        await w.SaveAsync();
    }

    /// <summary>An event without somebody, and whether they paid.</summary>
    private static (OrderEvent Event, bool IsPayer) Forgotten(OrderEvent said, MemberErased erased, bool isTheirs)
    {
        bool IsThem(string? address) => Core.EmailAddress.Normalise(address?.Trim().TrimEnd('.')) == erased.Email;
        var isPayer = said.Buyer is not null && (IsThem(said.Buyer.Email) || (isTheirs && said.Gift is null));
        var isGiven = said.Gift is not null && (IsThem(said.Gift.Email) || isTheirs);
        return (said with
        {
            Buyer = isPayer ? new OrderBuyer(erased.Tag) : said.Buyer,
            Gift = isGiven ? new OrderGift(erased.Tag, said.Gift!.On) : said.Gift,
            TokenDigest = isPayer ? null : said.TokenDigest,
        }, isPayer);
    }

    /// <summary>A fact that goes by another name, or none, goes so in the rules that give it.</summary>
    private static async Task ReplaceAsync(Writing w, FactReplaced replaced)
    {
        foreach (var row in await w.Db.Fulfilment.AsNoTracking().ToListAsync(w.Stop))
        {
            if (row.ToRule().Rule is { } rule && FulfilmentBook.Mapped(rule, a => a.Replacing(
                f => f.Kind == replaced.Kind && f.Key == replaced.Key ? replaced.Instead : f)) is var mapped && !ReferenceEquals(mapped, rule))
            {
                await w.PutAsync(FulfilmentRow.Of(mapped with { Version = rule.Version + 1 }), row.Key);
            }
        }
    }
}
