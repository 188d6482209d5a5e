using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Insights;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Insights;

/// <summary>What needs a hand today, what ends soon, and members over time.</summary>
public sealed class TodayEndpoint(PolicyHolder policies, Store store, TimeProvider time)
{
    private const int Months = 12;
    private const int MostEnds = 12;
    private const int MostDays = 3660;
    private static readonly TimeSpan Soon = TimeSpan.FromDays(7);
    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(10);
    private readonly SemaphoreSlim one = new(1, 1);
    private volatile FiguresView? figures;

    /// <summary>Maps it.</summary>
    public void Map(RouteGroupBuilder api)
    {
        api.MapGet("/today", ShowAsync).Requires("read").WithTags("Site");
        api.MapGet("/ends", EndsAsync).Requires("read").WithTags("Site");
    }

    /// <summary>What ends within so many days, for whom, soonest first.</summary>
    private async Task<Ok<EndsView>> EndsAsync(int? days, int? limit, CancellationToken stop)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var (ends, inAll) = await store.EndsAsync(now, now.AddDays(Math.Clamp(days ?? 31, 1, MostDays)), Paging.SizeOf(limit), stop);
        return TypedResults.Ok(new EndsView([.. ends.Select(e => ToWire(policy, e))], inAll));
    }

    private static EndView ToWire(Policy policy, StoredEnd e) =>
        new(e.Member, e.Name, $"{FactNames.NameOf(e.Kind)}:{e.Key}", TitleOf(policy, e.Kind, e.Key), e.Until);

    private async Task<Ok<TodayView>> ShowAsync(CancellationToken stop)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var (ends, inAll) = await store.EndsAsync(now, now + Soon, MostEnds, stop);
        var sweeps = await store.SweepsAsync(1, stop);
        var counted = await FiguresAsync(policy, now, stop);
        NeedView[] needs =
        [
            new("pending", await store.MemberCountAsync(MemberStatus.Pending, stop)), new("letters", await store.MessageCountAsync(LetterState.GivenUp, stop)),
            new("leaks", sweeps.Count == 0 ? 0 : sweeps[0].Leaks), new("unreadable", policies.Faults.Count),
            new("orders", await store.OrderCountAsync(new OrderQuery(Handling: OrderHandling.Waiting), stop) + await store.UnreadableEventsAsync(stop)),
        ];
        return TypedResults.Ok(new TodayView(
            [.. needs.Where(n => n.Count > 0)],
            [.. ends.Select(e => ToWire(policy, e))], inAll,
            await store.MembersSinceAsync(now - Soon, stop), counted, NextStep(policy, counted.Members[^1], sweeps.Count)));
    }

    /// <summary>Counts walk over everything that anybody holds; they are made by one at a time and kept for some minutes.</summary>
    private async Task<FiguresView> FiguresAsync(Policy policy, DateTimeOffset now, CancellationToken stop)
    {
        if (figures is { } kept && kept.CountedAt + Kept > now)
        {
            return kept;
        }

        await one.WaitAsync(stop);
        try
        {
            if (figures is { } made && made.CountedAt + Kept > now)
            {
                return made;
            }

            var first = new DateTimeOffset(now.Year, now.Month, 1, 0, 0, 0, TimeSpan.Zero);
            List<DateTimeOffset> moments = [.. Enumerable.Range(0, Months).Select(n => first.AddMonths(n - Months + 1)), now];
            var (members, held) = (await store.MembersAtAsync(moments, stop), await store.HeldAtAsync(moments, stop));
            return figures = new FiguresView(
                moments, members,
                [
                    .. policy.Definitions.Where(d => d.Kind != FactKind.Group && held.ContainsKey((d.Kind, d.Key)))
                        .Select(d => new HeldView($"{FactNames.NameOf(d.Kind)}:{d.Key}", d.Title, held[(d.Kind, d.Key)])),
                ], now);
        }
        finally
        {
            one.Release();
        }
    }

    private static string? NextStep(Policy policy, int members, int sweeps) => policy.Graph.Items.Count <= 1 && policy.Gates.Count == 0 ? "setup"
        : policy.Graph.Items.Count <= 1 ? "items" : policy.Gates.Count == 0 ? "gates"
        : members <= 1 ? "members" : sweeps == 0 ? "sweep" : null;

    private static string TitleOf(Policy policy, FactKind kind, string key) => kind == FactKind.Bought
        ? Core.Catalogue.ItemId.TryParse(key, out var id) ? policy.Graph.Find(id)?.Title ?? key : key : policy.FindDefinition(kind, key)?.Title ?? key;
}
