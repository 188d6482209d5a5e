using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>Reminds members of plans that end, and tells them when one is over: each once, wherever a machine dies in between.</summary>
public sealed class PlanReminders(Store store, PolicyHolder policies, PeopleLane people, ILetters letters, IPlanSales sales, TimeProvider time)
{
    private const int AtOnce = 200;
    private const string Turn = "plan-reminders";
    private static readonly TimeSpan Every = TimeSpan.FromMinutes(15);

    private bool HasReminders => policies.Current.Definitions.Any(d => d.Remind is not null);

    /// <summary>Whether somebody may have to be reminded.</summary>
    public async Task<bool> IsDueAsync(CancellationToken stop) => HasReminders && await store.IsTurnFreeAsync(Turn, time.GetUtcNow() - Every, stop);

    /// <summary>Writes what is due, every quarter of an hour, on one machine.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        if (HasReminders && await store.TakeTurnAsync(Turn, time.GetUtcNow() - Every, stop))
        {
            await RemindAsync(stop);
        }
    }

    /// <summary>Writes what is due; gives how many were written to.</summary>
    public async Task<int> RemindAsync(CancellationToken stop)
    {
        var (policy, now) = (policies.Current, time.GetUtcNow());
        var (dates, written) = (new SiteDates(policy.Settings.TimeZone), 0);
        foreach (var plan in policy.Definitions.Where(d => d.Remind is not null))
        {
            var last = dates.After(plan.Grace is { } grace ? dates.After(now, grace, 1) : now, plan.Remind!, 1).AddDays(4);
            (DateTimeOffset, Guid)? after = null;
            while (await store.EndingPlansAsync(plan.Key, now - PlanReminder.Late, last, after, AtOnce, stop) is { Count: > 0 } some)
            {
                after = (some[^1].Until, some[^1].Grant);
                foreach (var ending in some)
                {
                    written += PlanReminder.Due(plan, ending, dates, now) is { } kind && await WriteAsync(plan, ending, kind, dates, stop) ? 1 : 0;
                }
            }
        }

        return written;
    }

    /// <summary>Whether it ends as its time is over: what rests, or went on as another plan, has not lapsed.</summary>
    private async Task<bool> LapsesAsync(Member member, EndingPlan ending, CancellationToken stop) =>
        member.Grants.FirstOrDefault(g => g.Id == ending.Grant) is not { Source.Kind: "order" } grant
            || (await store.OrdersOfAsync(member.Id, stop)).FirstOrDefault(t => t.Order.Gave(grant)) is not { } told
            || told.Lapses(grant.Source.Reference, ending.Until);

    private async Task<bool> WriteAsync(FactDefinition plan, EndingPlan ending, string kind, SiteDates dates, CancellationToken stop)
    {
        if (await store.MemberAsync(ending.Member, stop) is not { Status: MemberStatus.Active } member
            || await store.WasRemindedAsync(ending.Grant, kind, ending.Until, stop)
            || (kind == PlanReminder.Lapsed && !await LapsesAsync(member, ending, stop)))
        {
            return false;
        }

        var until = kind == PlanReminder.Ending ? PlanReminder.PaidUntil(plan, ending, dates) : ending.Until;
        var link = sales.AddressOf(plan.Key) is { } sold ? letters.PageOf(sold) : letters.PageAt("/");
        var letter = letters.Write(
            kind, LetterReader.Of(member), ("plan", plan.Title), ("until", letters.Day(dates.StartOf(dates.DayOf(until)), member.Language)), ("link", link));
        var done = await people.ChangeAsync<bool>(
            async () => await store.WasRemindedAsync(ending.Grant, kind, ending.Until, stop)
                ? new Edit<bool>(new Edit("plan.remind", member.Email, []), false)
                : new Edit<bool>(
                    new Edit("plan.remind", member.Email, [new Reminded(ending.Grant, kind, ending.Until), letter], null, plan.Key), true),
            "reminders");
        return done.Problem is null && done.Value;
    }
}
