using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.Orders;

public sealed class OrderStoreOnSqlite() : OrderStoreTests("sqlite");

public sealed class OrderStoreOnPostgres() : OrderStoreTests("postgres");

/// <summary>Orders as they are kept, by two machines.</summary>
public abstract class OrderStoreTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Start = new(2026, 1, 31, 9, 0, 0, TimeSpan.Zero);

    private static Order Made(string key, string email = "ada@quill.example", int day = 0) => new()
    {
        Id = Guid.CreateVersion7(), Source = "pay", Key = key, Standing = OrderStanding.Paid, Handling = OrderHandling.Done, Email = email, Name = "Ada Quill",
        Codes = "PATRON", Total = new Money(4900, "EUR"), At = Start.AddDays(day), TokenDigest = "digest-" + key, Version = 1,
        Promises =
        [
            new OrderPromise(0, "1 × PATRON", "patron", [new PromisedFact(new GivenFact(FactKind.Plan, "patron"), new PlanLength(1, 3)),
                new PromisedFact(new GivenFact(FactKind.Bought, "download:atlas"), null),
                new PromisedFact(new GivenFact(FactKind.Pass, "frames"), new PlanLength(0, 30))], FulfilmentWay.Password, 2) { Most = 3, LandsOn = "/members",
                    IsTold = true },
        ],
        Told = ["order-waiting", "order-ended:1"],
    };

    private static KeptEvent Told(string name, string order, OrderEventState state = OrderEventState.Waiting, string email = "ada@quill.example") => new(
        Guid.CreateVersion7(), "pay", name, Start, state, new OrderEvent
        {
            Id = name, Order = order, Kind = OrderEventKind.Paid, At = Start.AddTicks(10), Buyer = new OrderBuyer(email, "Ada", "de"), Payment = "p",
            Lines = [new OrderLine("PATRON", "A", 3, new Money(147, "JPY"))], Amount = new Money(147, "JPY"), TokenDigest = "d",
            Gift = new OrderGift("b@c.example", new DateOnly(2026, 12, 24), "Two\nlines.", "B"),
        },
        "raw");

    [Fact]
    public async Task What_is_kept_is_read_back_whole()
    {
        var (order, told) = (Made("A-1"), Told("e1", "A-1"));
        await PutAsync(new OrderPut(order, 0), new OrderEventAdded(told));
        var read = (await Second.OrderAsync("pay", "A-1", Stop))!;
        (read with { Promises = [], Told = [] }).ShouldBe(order with { Promises = [], Told = [] });
        read.Told.ShouldBe(order.Told);
        (read.Promises[0] with { Facts = [] }).ShouldBe(order.Promises[0] with { Facts = [] });
        read.Promises[0].Facts.ShouldBe(order.Promises[0].Facts);
        var kept = (await Second.OrderEventsAsync("pay", "A-1", Stop)).ShouldHaveSingleItem();
        (kept with { Event = null }).ShouldBe(told with { Event = null });
        (kept.Event! with { Lines = [] }).ShouldBe(told.Event! with { Lines = [] });
        kept.Event!.Lines.ShouldBe(told.Event!.Lines);
        (await Second.OrderByTokenAsync("digest-A-1", Stop))!.Id.ShouldBe(order.Id);
        (await Second.OrderAsync(Guid.CreateVersion7(), Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task What_is_told_or_taken_by_two_at_once_is_so_once()
    {
        var events = Enumerable.Range(0, 8).Select(_ => Told("same", "A-1")).ToList();
        var stored = await Task.WhenAll(events.Select((e, n) => TriedAsync(n % 2 == 0 ? store : Second, new OrderEventAdded(e))));
        stored.Count(s => s).ShouldBe(1);
        var kept = (await store.OrderEventAsync("pay", "same", Stop))!;
        var taken = await Task.WhenAll(Enumerable.Range(0, 6).Select(n => TriedAsync(
            n % 2 == 0 ? store : Second, new OrderEventTaken(kept), new OrderPut(Made("A-1") with { Codes = "C" + n }, 0))));
        taken.Count(t => t).ShouldBe(1);
        (await store.OrderEventAsync(kept.Id, Stop))!.State.ShouldBe(OrderEventState.Taken);
        // Neither half of an edit is stored where the other does not fit.
        var (order, other) = ((await store.OrderAsync("pay", "A-1", Stop))!, Told("other", "A-1"));
        await PutAsync(new OrderEventAdded(other));
        (await TriedAsync(store, new OrderEventTaken(other), new OrderPut(order with { Version = 9 }, 8))).ShouldBeFalse();
        (await store.OrderEventAsync(other.Id, Stop))!.State.ShouldBe(OrderEventState.Waiting);
        (await store.WaitingEventsAsync(OrderEventState.Waiting, null, 10, Stop)).ShouldHaveSingleItem().Name.ShouldBe("other");
    }

    [Fact]
    public async Task Lists_go_on_where_they_were_cut_off_and_find_parts_of_words()
    {
        for (var n = 0; n < 25; n++)
        {
            var made = Made($"L-{n:D2}", n % 5 == 0 ? "other@quill.example" : "ada@quill.example", n / 2);
            await PutAsync(new OrderPut(made with { Handling = n % 3 == 0 ? OrderHandling.Waiting : OrderHandling.Done, DueAt = n == 7 ? Start : null }, 0));
        }

        var (seen, after) = (new List<string>(), ((DateTimeOffset, Guid)?)null);
        while (await store.OrdersAsync(new OrderQuery(After: after), 4, Stop) is { Count: > 0 } some)
        {
            seen.AddRange(some.Select(o => o.Key));
            after = (some[^1].At, some[^1].Id);
        }

        seen.ShouldBe(seen.Distinct());
        seen.Order().ShouldBe(Enumerable.Range(0, 25).Select(n => $"L-{n:D2}"));
        (await store.OrdersAsync(new OrderQuery(Words: " OTHER@ "), 99, Stop)).Count.ShouldBe(5);
        (await store.OrdersAsync(new OrderQuery(Words: "%"), 99, Stop)).ShouldBeEmpty();
        (await store.OrderCountAsync(new OrderQuery(OrderStanding.Paid, OrderHandling.Waiting), Stop)).ShouldBe(9);
        (await store.OrdersDueAsync(9, Stop)).ShouldHaveSingleItem().Key.ShouldBe("L-07");
    }

    [Fact]
    public async Task Whoever_is_erased_is_in_no_order_and_no_event_any_more_and_the_books_stay()
    {
        var member = Someone("ada+1@quill.example", null, null);
        await PutAsync(new MemberAdded(member));
        var bo = Made("B-1", "bo@quill.example") with { Name = "Bo" };
        KeptEvent ByBo(string name, string order, string? gift)
        {
            var told = Told(name, order, email: "bo@quill.example");
            return told with { Event = told.Event! with { Gift = gift is null ? null : new OrderGift(gift, null, "Words.", "Name") } };
        }

        // Their own order; one of somebody else; a present to them; a present by them, told with capital letters and a full stop.
        await PutAsync(
            new OrderPut(Made("A-1", member.Email) with { Member = member.Id }, 0),
                new OrderEventAdded(ByBo("e1", "A-1", null) with { Raw = "ADA+1@quill.example" }),
            new OrderPut(bo, 0), new OrderEventAdded(ByBo("e2", "B-1", null)),
            new OrderPut(bo with { Id = Guid.CreateVersion7(), Key = "C-1", Email = "ada+1@quill.example", Member = member.Id }, 0),
            new OrderEventAdded(ByBo("e3", "C-1", "ada+1@quill.example")),
            new OrderPut(Made("D-1", "bo@quill.example"), 0), new OrderEventAdded(Told("e4", "D-1", email: "Ada+1@Quill.example.")));
        (await store.OrdersOfAsync(member.Id, Stop)).Count.ShouldBe(2);
        await PutAsync(new MemberErased(member.Id, member.Email, "erased-1"));

        async Task<(Order Order, KeptEvent Told)> FoundAsync(string key) =>
            ((await store.OrderAsync("pay", key, Stop))!, (await store.OrderEventsAsync("pay", key, Stop)).Single());
        var (own, toldOwn) = await FoundAsync("A-1");
        (own.Email, own.Name, own.Member, own.TokenDigest, own.Total).ShouldBe(("erased-1", null, null, null, new Money(4900, "EUR")));
        (toldOwn.Raw, toldOwn.Event!.Buyer, toldOwn.Event.Amount).ShouldBe((null, new OrderBuyer("erased-1"), new Money(147, "JPY")));
        var (other, toldOther) = await FoundAsync("B-1");
        (other.Email, other.Name, toldOther.Event!.Buyer!.Email, toldOther.Raw).ShouldBe(("bo@quill.example", "Bo", "bo@quill.example", "raw"));
        var (given, toldGiven) = await FoundAsync("C-1");
        (given.Email, given.Name, toldGiven.Event!.Buyer!.Email, toldGiven.Event.Gift).ShouldBe(
            ("erased-1", "Bo", "bo@quill.example", new OrderGift("erased-1")));
        var (present, toldPresent) = await FoundAsync("D-1");
        (present.Email, present.Name, toldPresent.Event!.Buyer!.Email, toldPresent.Event.Gift!.Email).ShouldBe(
            ("bo@quill.example", null, "erased-1", "b@c.example"));
        (await store.OrdersAsync(new OrderQuery(Words: "ada"), 9, Stop)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_fact_that_goes_by_another_name_goes_so_in_rules_and_rows_that_cannot_be_read_stop_nothing()
    {
        FulfilmentRule Rule(string key, params string[] plans) =>
            new() { Key = key, Code = key, Gives = [.. plans.Select(p => new GivenFact(FactKind.Plan, p))] };
        await PutAsync(
            new FactDefinitionPut(new FactDefinition(FactKind.Plan, "old", "Old") { Grace = new PlanLength(0, 3), Remind = new PlanLength(0, 7) }),
            new FulfilmentPut(Rule("one", "old", "other")), new FulfilmentPut(Rule("two", "other")),
            new OrderSourcePut(new OrderSource { Key = "pay", Title = "Pay", Secrets = [new SourceSecret(new Secret("sealed"), Start)] }));
        await PutAsync(new FactReplaced(FactKind.Plan, "old", AudienceParser.ParseStored("plan:fresh").Value));
        var policy = await Second.LoadPolicyAsync(Stop);
        var book = policy.Parts.Of<FulfilmentBook>();
        book.All.First(r => r.Key == "one").Gives.Select(f => f.ToString()).ShouldBe(["plan:fresh", "plan:other"]);
        book.All.First(r => r.Key == "two").Version.ShouldBe(1);
        policy.Parts.Of<OrderSourceBook>().Find("pay")!.Secrets.ShouldBe([new SourceSecret(new Secret("sealed"), Start)]);
        var plan = policy.Definitions.First(d => d.Key == "old");
        (plan.Grace, plan.Remind).ShouldBe((new PlanLength(0, 3), new PlanLength(0, 7)));

        await SqlAsync("UPDATE fulfilment SET \"Body\" = '{\"code\":' WHERE \"Key\" = 'one'");
        await SqlAsync("UPDATE order_sources SET \"Body\" = '[]', \"Secrets\" = 'x'");
        await PutAsync(new OrderEventAdded(Told("e1", "A-1")), new OrderPut(Made("A-1"), 0));
        await SqlAsync("UPDATE order_events SET \"Body\" = '{\"kind\":\"x\"}'");
        await SqlAsync("UPDATE orders SET \"Promises\" = 'x'");
        var bent = await Second.LoadPolicyAsync(Stop);
        bent.Faults.Select(f => f.Kind).ShouldBe(["fulfilment", "order-source"], ignoreOrder: true);
        bent.Parts.Of<FulfilmentBook>().All.ShouldHaveSingleItem().Key.ShouldBe("two");
        bent.Parts.Of<OrderSourceBook>().All.ShouldBeEmpty();
        (await store.OrderEventsAsync("pay", "A-1", Stop))[0].State.ShouldBe(OrderEventState.Unreadable);
        (await store.OrderAsync("pay", "A-1", Stop))!.Promises.ShouldBeEmpty();
    }

    [Fact]
    public async Task What_is_followed_by_more_is_no_end_and_what_was_told_of_an_end_is_told_once()
    {
        Grant Plan(int from, int? until, string source) => new(FactKind.Plan, "patron", Start.AddDays(from), until is { } end ? Start.AddDays(end) : null)
        { Id = Guid.CreateVersion7(), Source = GrantSource.Stored("order", source) };
        async Task<Guid> WithAsync(string email, params Grant[] grants)
        {
            var member = Someone(email, null, null) with { Grants = grants };
            await PutAsync(new MemberAdded(member));
            return member.Id;
        }

        var alone = await WithAsync("alone@end.example", Plan(0, 30, "1"));
        var gap = await WithAsync("gap@end.example", Plan(0, 30, "1"), Plan(31, 60, "2"));
        var row = await WithAsync("row@end.example", Plan(0, 30, "1"), Plan(30, 60, "2"));
        await WithAsync("always@end.example", Plan(0, 30, "1"), Plan(10, null, "2"));
        var ends = await store.EndingPlansAsync("patron", Start, Start.AddDays(40), null, 9, Stop);
        ends.Select(e => e.Member).ShouldBe([alone, gap], ignoreOrder: true);
        (await store.EndingPlansAsync("patron", Start, Start.AddDays(70), (ends[^1].Until, ends[^1].Grant), 9, Stop)).Select(e => e.Member)
            .ShouldBe([gap, row], ignoreOrder: true);
        (await store.EndsAsync(Start, Start.AddDays(40), 9, Stop)).InAll.ShouldBe(2);

        var told = await Task.WhenAll(Enumerable.Range(0, 6).Select(
            n => TriedAsync(n % 2 == 0 ? store : Second, new Reminded(ends[0].Grant, PlanReminder.Ending, ends[0].Until))));
        told.Count(t => t).ShouldBe(1);
        (await Second.WasRemindedAsync(ends[0].Grant, PlanReminder.Ending, ends[0].Until, Stop)).ShouldBeTrue();
        (await Second.WasRemindedAsync(ends[0].Grant, PlanReminder.Lapsed, ends[0].Until, Stop)).ShouldBeFalse();
    }

    /// <summary>Whether an edit was stored; false where somebody else was faster.</summary>
    private static async Task<bool> TriedAsync(Store at, params Change[] changes)
    {
        try
        {
            await at.ApplyAsync(new Edit("test", "test", changes), "test", stop: Stop);
            return true;
        }
        catch (StoreMovedException)
        {
            return false;
        }
    }
}
