using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests.Orders;

/// <summary>What is held where an order is started by hand or by use, rests, goes on, and becomes another plan.</summary>
public sealed class PlanLifeTests
{
    private const int Days = 5;
    private const int Hours = 24 * Days;
    private static readonly DateTimeOffset Start = new(2026, 3, 1, 0, 0, 0, TimeSpan.Zero);
    private static readonly DateTimeOffset Later = Start.AddYears(3);

    private static Policy Policy(PlanStart starts = PlanStart.AtOnce, PlanLength? grace = null)
    {
        string[] plans = ["small", "large"];
        return Core.Access.Policy.Build(
            [], [], [.. plans.Select(p => new FactDefinition(FactKind.Plan, p, p) { Length = new PlanLength(0, Days), Starts = starts, Grace = grace })],
            new SiteSettings { TimeZone = "UTC" }, PolicyParts.Of(new FulfilmentBook(plans.Select(
                p => new FulfilmentRule { Key = p, Code = p, Gives = [new GivenFact(FactKind.Plan, p)] })))).Value;
    }

    private static OrderEvent Told(OrderEventKind kind, int hour, string? code = null, long? price = null, Money? amount = null, string order = "1") => new()
    {
        Id = $"{order}-{kind}-{hour}", Order = order, Kind = kind, At = Start.AddHours(hour), Buyer = new OrderBuyer("mira@quill.example", "Mira"),
        Amount = amount, Lines = code is null ? [] : [new OrderLine(code, null, 1, price is { } units ? new Money(units, "EUR") : null)],
    };

    private static IReadOnlyList<Grant> Held(Policy policy, IEnumerable<OrderEvent> events)
    {
        var kept = events.Select(e => new KeptEvent(Guid.CreateVersion7(), "pay", e.Id, Later, OrderEventState.Waiting, e)).ToList();
        var fresh = new FreshAccount(Guid.CreateVersion7(), null);
        return OrderCommands.TakeUp(policy, new OrderFile(null, kept, null, []), fresh, Later).Value.Member?.Grants ?? [];
    }

    /// <summary>The rule once more, as a meter: each payment puts hours on it, each hour that is neither over nor resting takes one off.</summary>
    private static HashSet<(string Plan, int Hour)> Metered(IReadOnlyList<OrderEvent> events, PlanStart starts, int until)
    {
        var (held, plan, left, price, rests, over) = (new HashSet<(string, int)>(), "", 0m, 0L, false, false);
        var started = starts == PlanStart.AtOnce;
        // What is open until its first use is reckoned from there once there was one.
        var isUsed = events.Any(e => e.Kind == OrderEventKind.Started && events.LastOrDefault(
            o => o.At < e.At && o.Kind is OrderEventKind.Paid or OrderEventKind.Renewed or OrderEventKind.Ended)?.Kind != OrderEventKind.Ended);
        for (var hour = 0; hour < until; hour++)
        {
            foreach (var told in events.Where(e => e.At == Start.AddHours(hour) && (!over || e.Kind == OrderEventKind.Renewed)))
            {
                left = told.Kind == OrderEventKind.Ended ? 0 : left;
                (rests, started, over) = told.Kind switch
                {
                    OrderEventKind.Paused => (true, started, over),
                    OrderEventKind.Paid or OrderEventKind.Renewed => (rests, started, false),
                    OrderEventKind.Resumed => (false, started, over),
                    OrderEventKind.Started => (rests, true, over),
                    OrderEventKind.Ended => (false, started, true),
                    _ => (rests, started, over),
                };
                if (told.Kind is OrderEventKind.Paid or OrderEventKind.Renewed)
                {
                    (plan, price) = told.Lines.Count > 0 && plan.Length == 0 ? (told.Lines[0].Code, told.Lines[0].Amount!.Value.Units) : (plan, price);
                    left += Hours;
                }
                else if (told.Kind == OrderEventKind.Changed && told.Lines[0].Code != plan)
                {
                    left *= told.Amount is { Units: > 0 } ? 1 : (decimal)price / told.Lines[0].Amount!.Value.Units;
                    (plan, price) = (told.Lines[0].Code, told.Lines[0].Amount!.Value.Units);
                }
            }

            if (!over && !rests && !started && !isUsed && starts == PlanStart.OnUse && left > 0)
            {
                held.Add((plan, hour));
            }
            else if (!over && !rests && started && left > 0)
            {
                held.Add((plan, hour));
                left = Math.Max(0, left - 1);
            }
        }

        return held;
    }

    [Property(MaxTest = 500)]
    public void What_is_held_is_what_a_meter_counts(int seed)
    {
        var random = new Random(seed);
        var starts = (PlanStart)random.Next(3);
        List<OrderEvent> events = [Told(OrderEventKind.Paid, 0, "small", 10)];
        foreach (var hour in Enumerable.Range(1, 200).OrderBy(_ => random.Next()).Take(random.Next(9)).Order())
        {
            events.Add(random.Next(13) switch
            {
                0 or 1 or 2 => Told(OrderEventKind.Paused, hour),
                3 or 4 or 5 => Told(OrderEventKind.Resumed, hour),
                6 or 7 => Told(OrderEventKind.Renewed, hour),
                8 => Told(OrderEventKind.Changed, hour, "large", 20),
                9 => Told(OrderEventKind.Changed, hour, "small", 10),
                10 => Told(OrderEventKind.Changed, hour, "large", 20, new Money(10, "EUR")),
                11 => Told(OrderEventKind.Started, hour),
                _ => random.Next(4) == 0 ? Told(OrderEventKind.Ended, hour) : Told(OrderEventKind.Started, hour),
            });
        }

        const int until = 3000;
        var held = Held(Policy(starts), events).ToList();
        for (var hour = 0; hour < until; hour++)
        {
            var at = Start.AddHours(hour);
            var here = held.Where(g => g.IsInForce(at)).Select(g => g.Key).Distinct().ToList();
            here.Count.ShouldBeLessThanOrEqualTo(1);
        }

        var metered = Metered(events, starts, until);
        var counted = Enumerable.Range(0, until).SelectMany(h => held.Where(g => g.IsInForce(Start.AddHours(h))).Select(g => (g.Key, h))).ToHashSet();
        counted.Except(metered).Concat(metered.Except(counted)).OrderBy(x => x.Item2).Take(4).ShouldBeEmpty(
            $"{starts}: {string.Join(" ", events.Select(e => $"{e.Kind}@{(e.At - Start).TotalHours}{(e.Lines.Count > 0 ? "=" + e.Lines[0].Code : "")}"))}");
    }

    [Fact]
    public void What_rests_is_none_the_less_for_it_and_has_no_grace_meanwhile()
    {
        var policy = Policy(grace: new PlanLength(0, 2));
        var resting = Held(policy, [Told(OrderEventKind.Paid, 0, "small"), Told(OrderEventKind.Paused, 48)]).ShouldHaveSingleItem();
        resting.Until.ShouldBe(Start.AddHours(48));
        var grants = Held(policy, [Told(OrderEventKind.Paid, 0, "small"), Told(OrderEventKind.Paused, 48), Told(OrderEventKind.Resumed, 480)]);
        grants.Select(g => (g.Source.Reference, g.From, g.Until)).ShouldBe(
            [("pay:1", Start, Start.AddHours(48)), ("pay:1+1.2", Start.AddHours(480), Start.AddHours(480 + Hours - 48 + 48))]);
    }

    [Fact]
    public void Another_plan_takes_over_what_is_left_by_what_the_two_cost()
    {
        OrderEvent[] told = [Told(OrderEventKind.Paid, 0, "small", 900), Told(OrderEventKind.Changed, 24, "large", 3600)];
        var grants = Held(Policy(), told);
        grants.Select(g => (g.Key, g.From, g.Until)).ShouldBe(
            [("small", Start, Start.AddHours(24)), ("large", Start.AddHours(24), Start.AddHours(24 + ((Hours - 24) / 4)))]);

        // Paid for, it lasts to the very end that was paid for before; so it does where nobody knows the prices.
        Held(Policy(), [told[0], told[1] with { Amount = new Money(2100, "EUR") }]).Single(g => g.Key == "large").Until.ShouldBe(Start.AddHours(Hours));
        Held(Policy(), [Told(OrderEventKind.Paid, 0, "small"), Told(OrderEventKind.Changed, 24, "large")]).Single(g => g.Key == "large").Until
            .ShouldBe(Start.AddHours(Hours));
    }

    [Fact]
    public void A_letter_tells_of_what_is_bought_now_and_not_of_what_was_before()
    {
        OrderEvent[] told = [Told(OrderEventKind.Paid, 0, "small"), Told(OrderEventKind.Changed, 24, "large")];
        var kept = told.Select(e => new KeptEvent(Guid.CreateVersion7(), "pay", e.Id, Start, OrderEventState.Waiting, e)).ToList();
        var fresh = new FreshAccount(Guid.CreateVersion7(), null);
        var taken = OrderCommands.TakeUp(Policy(), new OrderFile(null, kept, null, []), fresh, Start.AddHours(30)).Value;
        taken.Letters.ShouldHaveSingleItem().Promises.ShouldHaveSingleItem().Rule.ShouldBe("large");
    }

    [Fact]
    public void What_is_bought_on_as_it_was_is_not_touched_by_a_change_and_money_back_ends_all()
    {
        OrderLine[] both = [new("small"), new("large")];
        OrderEvent[] told = [Told(OrderEventKind.Paid, 0) with { Lines = both }, Told(OrderEventKind.Changed, 24) with { Lines = [new("large")] }];
        var grants = Held(Policy(), told);
        grants.Select(g => (g.Key, g.Until)).ShouldBe([("small", Start.AddHours(24)), ("large", Start.AddHours(Hours))], ignoreOrder: true);
        Held(Policy(), [.. told, Told(OrderEventKind.Refunded, 30)]).ShouldAllBe(g => g.IsOver(Start.AddHours(30)));
    }

    [Fact]
    public void One_plan_becomes_seats_of_another_for_what_is_left_and_is_held_no_longer_itself()
    {
        var policy = Core.Access.Policy.Build(
            [], [], [.. new[] { "small", "large" }.Select(p => new FactDefinition(FactKind.Plan, p, p) { Length = new PlanLength(0, Days) })],
            new SiteSettings { TimeZone = "UTC" }, PolicyParts.Of(new FulfilmentBook(
                [
                    new() { Key = "small", Code = "small", Gives = [new GivenFact(FactKind.Plan, "small")] },
                    new() { Key = "large", Code = "large", Gives = [new GivenFact(FactKind.Plan, "large")], Quantity = QuantityMeaning.Seats },
                ]))).Value;
        OrderEvent[] told = [Told(OrderEventKind.Paid, 0, "small"), Told(OrderEventKind.Changed, 24, "large")];
        Held(policy, told).Select(g => (g.Key, g.From, g.Until)).ShouldBe([("small", Start, Start.AddHours(24))]);
        var kept = told.Select(e => new KeptEvent(Guid.CreateVersion7(), "pay", e.Id, Later, OrderEventState.Waiting, e)).ToList();
        var taken = OrderCommands.TakeUp(
            policy, new OrderFile(null, kept, null, []), new FreshAccount(Guid.CreateVersion7(), null), Start.AddHours(30)).ToStore.Changes;
        var made = taken.OfType<OrganisationAdded>().ShouldHaveSingleItem().Organisation;
        made.Facts.ShouldBe([new OrganisationFact(FactKind.Plan, "large", Start.AddHours(24), Start.AddHours(Hours))]);
        taken.OfType<MemberAdded>().Single().Member.Grants.ShouldContain(g => g.Key == "large" && g.Source.IsOrganisation && g.Until == Start.AddHours(Hours));
    }

    [Fact]
    public void What_cannot_be_given_yet_takes_the_place_of_nothing_and_leaves_nobody_outside()
    {
        OrderEvent[] told = [Told(OrderEventKind.Paid, 0, "small"), Told(OrderEventKind.Changed, 24, "unheard-of"), Told(OrderEventKind.Renewed, 48)];
        Held(Policy(), told).Select(g => (g.Key, g.From, g.Until)).ShouldBe(
            [("small", Start, Start.AddHours(Hours)), ("small", Start.AddHours(Hours), Start.AddHours(2 * Hours))]);
    }

    [Fact]
    public void A_payment_for_a_change_that_is_told_of_twice_is_counted_once_and_loses_no_change()
    {
        var paid = Told(OrderEventKind.Paid, 0, "small", 10, new Money(10, "EUR"));
        var renewed = Told(OrderEventKind.Renewed, 24, amount: new Money(20, "EUR")) with { Payment = "p9" };
        var changed = Told(OrderEventKind.Changed, 24, "large", 20, new Money(20, "EUR")) with { Payment = "p9" };
        var story = OrderStory.Of([paid, renewed, changed, changed with { Id = "again" }]);
        story.Total.ShouldBe(new Money(30, "EUR"));
        story.Present.Single().Line.Code.ShouldBe("large");
        // Paid for: a whole length of the new plan, and what was left of the old by its price.
        Held(Policy(), [paid, renewed, changed]).Where(g => g.Key == "large").Max(g => g.Until).ShouldBe(Start.AddHours(24 + Hours + ((Hours - 24) / 2)));
    }

    [Fact]
    public void Orders_whose_names_look_like_numbers_of_payments_keep_apart()
    {
        Order Named(string key) => new() { Id = Guid.NewGuid(), Source = "pay", Key = key };
        var (plain, odd, odder) = (Named("A"), Named("A+2"), Named("A+2.1"));
        foreach (var (one, others) in new[] { (plain, new[] { odd, odder }), (odd, [plain, odder]), (odder, [plain, odd]) })
        {
            foreach (var (payment, part) in new[] { (1, 1), (2, 1), (1, 2), (13, 4) })
            {
                var grant = new Grant(FactKind.Plan, "p") { Source = GrantSource.Stored("order", one.Reference(payment, part)) };
                one.PaymentOf(grant).ShouldBe(payment, grant.Source.Reference);
                others.ShouldAllBe(o => !o.Gave(grant));
            }
        }
    }

    [Fact]
    public void What_rests_or_went_on_as_another_plan_has_not_lapsed()
    {
        ToldOrder Of(params OrderEvent[] events) => new(new Order { Id = Guid.NewGuid(), Source = "pay", Key = "1" }, OrderStory.Of(events));
        var paid = Told(OrderEventKind.Paid, 0, "small");
        Of(paid).Lapses("pay:1", Start.AddHours(Hours)).ShouldBeTrue();
        Of(paid, Told(OrderEventKind.Paused, 9)).Lapses("pay:1", Start.AddHours(9)).ShouldBeFalse();
        Of(paid, Told(OrderEventKind.Changed, 9, "large")).Lapses("pay:1", Start.AddHours(9)).ShouldBeFalse();
        Of(paid, Told(OrderEventKind.Refunded, 9)).Lapses("pay:1", Start.AddHours(9)).ShouldBeFalse();
        Of(paid, Told(OrderEventKind.Paused, 9)).Story.Standing.ShouldBe(OrderStanding.Paused);
        Of(paid, Told(OrderEventKind.Paused, 9), Told(OrderEventKind.Resumed, 10)).Story.Standing.ShouldBe(OrderStanding.Paid);
    }
}
