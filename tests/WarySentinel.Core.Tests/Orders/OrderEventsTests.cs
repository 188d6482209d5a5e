using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests.Orders;

/// <summary>What is held in the end, whatever the order in which events come, and however often.</summary>
public sealed class OrderEventsTests
{
    private static readonly DateTimeOffset Start = new(2026, 1, 31, 9, 0, 0, TimeSpan.Zero);
    private static readonly DateTimeOffset Later = Start.AddYears(2);
    private static readonly string[] Codes = ["PATRON", "NIGHT-1", "NIGHT-2", "ATLAS", "FRAMES", "TRY", "STUDY", "VISIT", "NOBODY-KNOWS"];

    private static Policy Policy()
    {
        FulfilmentRule[] rules =
        [
            new() { Key = "patron", Code = "PATRON", Gives = [new GivenFact(FactKind.Plan, "patron"), new GivenFact(FactKind.Group, "friends")] },
            new() { Key = "night", Code = "NIGHT-*", Gives = [new GivenFact(FactKind.Plan, "night-pass")], Quantity = QuantityMeaning.Lengths },
            new() { Key = "try", Code = "TRY", Gives = [new GivenFact(FactKind.Plan, "patron")], Trial = new PlanLength(0, 7) },
            new() { Key = "study", Code = "STUDY", Gives = [new GivenFact(FactKind.Plan, "study"), new GivenFact(FactKind.Role, "student")] },
            new() { Key = "visit", Code = "VISIT", Gives = [new GivenFact(FactKind.Plan, "visit")], Quantity = QuantityMeaning.Lengths },
            new() { Key = "atlas", Code = "atlas", Gives = [new GivenFact(FactKind.Bought, "download:atlas")] },
            new()
            {
                Key = "frames", Code = "FRAMES", Gives = [new GivenFact(FactKind.Pass, "frames")], Length = new PlanLength(36, 0),
                Quantity = QuantityMeaning.Lengths,
            },
        ];
        FactDefinition[] facts =
        [
            new(FactKind.Plan, "patron", "Patron") { Length = new PlanLength(1, 0), Grace = new PlanLength(0, 3) }, new(FactKind.Group, "friends", "Friends"),
            new(FactKind.Plan, "night-pass", "Night pass") { Length = new PlanLength(0, 30) },
            new(FactKind.Plan, "study", "Study") { Length = new PlanLength(2, 0), Starts = PlanStart.ByHand }, new(FactKind.Role, "student", "Student"),
            new(FactKind.Plan, "visit", "Visit") { Length = new PlanLength(0, 7), Starts = PlanStart.OnUse },
            new(FactKind.Pass, "frames", "Calibration frames"),
        ];
        return Core.Access.Policy.Build(
            [Scene.Item("download:atlas")], [], facts, new SiteSettings { TimeZone = "Europe/Lisbon" }, PolicyParts.Of(new FulfilmentBook(rules))).Value;
    }

    /// <summary>The store, as far as orders of one address go: taken up as they come, all of one order together.</summary>
    private sealed class House(Policy policy)
    {
        private readonly Dictionary<string, Order> orders = [];
        private readonly Dictionary<string, List<KeptEvent>> events = [];
        private readonly Dictionary<Guid, Pass> passes = [];

        public Member? Member { get; private set; }

        public List<string> Letters { get; } = [];

        /// <summary>To whom passwords were told.</summary>
        public List<string> Passwords { get; } = [];

        public IReadOnlyCollection<Pass> Passes => passes.Values;

        /// <summary>Staff say when the pass ends.</summary>
        public void Renew(DateTimeOffset? until) => passes[Passes.Single().Id] = Passes.Single() with { Until = until, Version = Passes.Single().Version + 1 };

        public int Told { get; private set; }

        public void Tell(OrderEvent told, DateTimeOffset now)
        {
            var mine = events.TryGetValue(told.Order, out var there) ? there : events[told.Order] = [];
            if (mine.Exists(e => e.Name == told.Id))
            {
                return;
            }

            mine.Add(new KeptEvent(Guid.CreateVersion7(), "pay", told.Id, now, OrderEventState.Waiting, told));
            TakeUp(told.Order, now);
        }

        public void TakeUp(string order, DateTimeOffset now)
        {
            var others = orders.Values.Where(o => o.Key != order && o.Member is not null)
                .Select(o => new ToldOrder(o, OrderStory.Of(events[o.Key].Select(e => e.Event!)))).ToList();
            var stored = OrderCommands.TakeUp(
                policy, new OrderFile(orders.GetValueOrDefault(order), events[order], Member, others)
                {
                    Passes = [.. passes.Values.Where(p => p.Order == "pay:" + order)],
                }, new FreshAccount(Guid.CreateVersion7(), null) { Passes = [new FreshPass(Guid.CreateVersion7(), "abcde", "digest-" + Told++)] }, now);
            foreach (var put in stored.ToStore.Changes.OfType<PassPut>())
            {
                (passes.GetValueOrDefault(put.Pass.Id)?.Version ?? 0).ShouldBe(put.Was);
                passes[put.Pass.Id] = put.Pass;
            }

            var taken = stored.Value;
            Passwords.AddRange(taken.Passes.Select(p => $"{p.Pass.Email} {p.Fresh.Digest.Reveal()}"));
            (orders[order], Member) = (taken.Order, taken.Member ?? Member);
            events[order] = [.. events[order].Select(e => e with { State = OrderEventState.Taken })];
            Letters.AddRange(taken.Letters.Select(l => l.Kind));
        }

        /// <summary>What they hold and when, in words; what never was in force is nothing.</summary>
        public IReadOnlyList<string> Held => [.. (Member?.Grants ?? []).Where(g => g.Until is null || g.From < g.Until)
            .Select(g => $"{g.Fact} {g.Source} {g.From:O} – {g.Until:O}")
            .Concat(passes.Values.Where(p => p.Until > Later).Select(p => $"{p.Kind} {p.Order} {p.From:O} – {p.Until:O}")).Order(StringComparer.Ordinal)];
    }

    private static List<OrderEvent> Made(Random random, int orders)
    {
        var all = new List<OrderEvent>();
        for (var n = 0; n < orders; n++)
        {
            var (order, at, events) = ("o" + n, Start.AddHours(random.Next(24 * 60)), new List<OrderEvent>());
            OrderEvent Next(OrderEventKind kind, Money? amount = null) => new()
            {
                Id = $"{order}-{events.Count}", Order = order, Kind = kind, At = at = at.AddMinutes(random.Next(3) == 0 ? 0 : random.Next(60 * 24 * 20)),
                Amount = amount,
                Buyer = kind == OrderEventKind.Paid || random.Next(2) == 0 ? new OrderBuyer("mira@quill.example", "Mira") : null,
                Lines = kind == OrderEventKind.Paid ? [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ =>
                    new OrderLine(
                        Codes[random.Next(Codes.Length)], null, random.Next(1, 4), random.Next(3) == 0 ? null : new Money(random.Next(900), "EUR")))] : [],
            };
            var paid = 0;
            events.Add(Next(OrderEventKind.Paid, new Money(1000, "EUR")) with { Payment = random.Next(3) == 0 ? null : order + "-p0" });
            for (var more = random.Next(9); more > 0; more--)
            {
                events.Add(random.Next(15) switch
                {
                    10 => Next(OrderEventKind.Started),
                    11 => Next(OrderEventKind.Paused),
                    12 => Next(OrderEventKind.Resumed),
                    13 or 14 => Next(OrderEventKind.Changed, random.Next(2) == 0 ? null : new Money(random.Next(500), "EUR")) with
                    {
                        Lines = [.. Enumerable.Range(0, random.Next(1, 3)).Select(_ => new OrderLine(
                            Codes[random.Next(Codes.Length)], null, random.Next(1, 3), random.Next(3) == 0 ? null : new Money(random.Next(900), "EUR")))],
                    },
                    0 => Next(OrderEventKind.Refunded),
                    1 => Next(OrderEventKind.Refunded, new Money(random.Next(1, 1200), "EUR")),
                    2 => Next(OrderEventKind.Cancelled),
                    3 => Next(OrderEventKind.ChargedBack),
                    4 => Next(OrderEventKind.RenewalFailed),
                    5 => Next(OrderEventKind.Ended),
                    6 => Next(OrderEventKind.Refunded) with { Payment = $"{order}-p{random.Next(paid + 2)}" },
                    7 => Next(OrderEventKind.Refunded, new Money(random.Next(1, 1200), "EUR")) with { Payment = $"{order}-p{random.Next(paid + 2)}" },
                    _ => Next(OrderEventKind.Renewed, new Money(1000, "EUR")) with { Payment = $"{order}-p{++paid}" },
                });
            }

            all.AddRange(events);
        }

        return all;
    }

    [Tried(150, 6000)]
    public void Any_order_of_any_repetition_ends_in_the_same(int seed)
    {
        var (random, policy) = (new Random(seed), Policy());
        var events = Made(random, random.Next(1, 4));
        var straight = new House(policy);
        events.OrderBy(e => e.At).ToList().ForEach(e => straight.Tell(e, Later));
        for (var n = 0; n < 4; n++)
        {
            var (mixed, house) = (events.Concat(events.Where(_ => random.Next(2) == 0)).ToArray(), new House(policy));
            random.Shuffle(mixed);
            foreach (var told in mixed)
            {
                house.Tell(told, Later);
            }

            house.Held.ShouldBe(straight.Held, string.Join("\n", mixed.Select(e => $"{e.Id} {e.Kind} {e.At:O} {string.Join(",", e.Lines)}")));
        }
    }

    [Property(MaxTest = 300)]
    public void What_is_taken_up_again_changes_nothing(int seed)
    {
        var (random, policy) = (new Random(seed), Policy());
        var house = new House(policy);
        var events = Made(random, 2);
        events.ForEach(e => house.Tell(e, Later));
        var (held, letters, version) = (house.Held, house.Letters.Count, house.Member?.Version);
        foreach (var order in events.Select(e => e.Order).Distinct())
        {
            house.TakeUp(order, Later.AddDays(1));
        }

        house.Held.ShouldBe(held);
        house.Letters.Count.ShouldBe(letters);
        house.Member?.Version.ShouldBe(version!.Value);
    }

    [Fact]
    public void A_pass_takes_no_account_lasts_as_long_as_it_is_paid_for_and_is_another_where_the_address_is_mended()
    {
        var house = new House(Policy());
        house.Tell(Told("a", OrderEventKind.Paid, Start, code: "FRAMES"), Start);
        house.Member.ShouldBeNull();
        house.Letters.ShouldBeEmpty("the pass has a letter of its own");
        var pass = house.Passes.ShouldHaveSingleItem();
        (pass.Email, pass.Holder, pass.Name, pass.Until).ShouldBe(("mira@quill.example", "Mira", "frames-abcde", Start.AddYears(3)));
        house.Tell(Told("b", OrderEventKind.Renewed, Start.AddDays(9)), Start.AddDays(9));
        house.Passes.ShouldHaveSingleItem().Until.ShouldBe(Start.AddYears(6));
        house.Passwords.ShouldHaveSingleItem();
        house.Tell(
            Told("c", OrderEventKind.Mended, Start.AddDays(10)) with { Buyer = new OrderBuyer("mira@quince.example", "Mira") }, Start.AddDays(10));
        house.Passes.ShouldHaveSingleItem().Email.ShouldBe("mira@quince.example");
        house.Passwords.Count.ShouldBe(2);
        house.Passes.Single().Digest.ShouldNotBe(pass.Digest, "whoever reads the other address knows nothing any more");
        house.Tell(Told("d", OrderEventKind.Refunded, Start.AddDays(11)), Start.AddDays(11));
        house.Passes.Single().IsInForce(Start.AddDays(11)).ShouldBeFalse();
        house.Letters.ShouldBe([OrderCommands.LetterOfMending, OrderCommands.LetterOfEnd]);
    }

    [Fact]
    public void What_staff_set_for_a_pass_by_hand_stays_until_its_order_moves_the_end()
    {
        var (house, n) = (new House(Policy()), 0);
        DateTimeOffset? After(OrderEventKind kind)
        {
            house.Tell(Told("e" + ++n, kind, Start.AddDays(n), code: "FRAMES"), Start.AddDays(n));
            return house.Passes.ShouldHaveSingleItem().Until;
        }

        After(OrderEventKind.Paid).ShouldBe(Start.AddDays(1).AddYears(3));
        house.Renew(Start.AddYears(1));
        After(OrderEventKind.RenewalFailed).ShouldBe(Start.AddYears(1), "shorter than paid for, and nothing is moved");
        After(OrderEventKind.Renewed).ShouldBe(Start.AddDays(1).AddYears(6));
        house.Renew(Start.AddYears(10));
        After(OrderEventKind.Renewed).ShouldBe(Start.AddYears(10), "a payment takes nothing");
        house.Renew(null);
        After(OrderEventKind.Renewed).ShouldBeNull();
        After(OrderEventKind.Refunded).ShouldNotBeNull().ShouldBeLessThanOrEqualTo(Start.AddDays(n));
        house.Renew(Start.AddYears(2));
        After(OrderEventKind.RenewalFailed).ShouldBe(Start.AddYears(2), "given after the order ended");
    }

    [Fact]
    public void Money_that_went_back_before_anything_was_given_gives_no_pass()
    {
        var house = new House(Policy());
        house.Tell(Told("b", OrderEventKind.Refunded, Start.AddDays(1), code: "FRAMES"), Start.AddDays(2));
        house.Tell(Told("a", OrderEventKind.Paid, Start, code: "FRAMES"), Start.AddDays(2));
        house.Passes.ShouldBeEmpty();
        house.Passwords.ShouldBeEmpty();
    }

    private static OrderEvent Told(string id, OrderEventKind kind, DateTimeOffset at, string order = "1", string code = "PATRON", Money? amount = null) => new()
    {
        Id = id, Order = order, Kind = kind, At = at, Buyer = new OrderBuyer("Mira@Quill.example.", "Mira"), Amount = amount,
        Lines = kind == OrderEventKind.Paid ? [new OrderLine(code)] : [],
    };

    [Fact]
    public void Paid_early_goes_on_where_the_last_length_ends_and_moves_up_where_that_is_given_back()
    {
        var house = new House(Policy());
        house.Tell(Told("a", OrderEventKind.Paid, Start), Start);
        house.Member!.Email.ShouldBe("mira@quill.example");
        house.Tell(Told("b", OrderEventKind.Renewed, Start.AddDays(20)), Start.AddDays(20));
        // By the month from the 31st: the end of February, then the 31st of March, with the clocks of summer; three days more where nothing follows.
        house.Held.ShouldContain("plan:patron order:pay:1 2026-01-31T09:00:00.0000000+00:00 – 2026-02-28T09:00:00.0000000+00:00");
        house.Held.ShouldContain("plan:patron order:pay:1+2 2026-02-28T09:00:00.0000000+00:00 – 2026-04-03T08:00:00.0000000+00:00");
        house.Tell(Told("c", OrderEventKind.Paid, Start.AddDays(25), "2"), Start.AddDays(25));
        house.Held.ShouldContain("plan:patron order:pay:2 2026-03-31T08:00:00.0000000+00:00 – 2026-05-03T08:00:00.0000000+00:00");
        house.Tell(Told("d", OrderEventKind.Refunded, Start.AddDays(26)), Start.AddDays(26));
        house.Held.ShouldContain("plan:patron order:pay:1 2026-01-31T09:00:00.0000000+00:00 – 2026-02-26T09:00:00.0000000+00:00");
        house.Held.ShouldContain("plan:patron order:pay:2 2026-02-26T09:00:00.0000000+00:00 – 2026-03-29T08:00:00.0000000+00:00");
        house.Letters.ShouldBe(["order", "order", "order-ended"]);
    }

    [Fact]
    public void A_refund_that_is_told_before_the_payment_gives_nothing_and_tells_nobody()
    {
        var house = new House(Policy());
        house.Tell(Told("r", OrderEventKind.Refunded, Start.AddMinutes(1)), Start);
        house.Tell(Told("p", OrderEventKind.Paid, Start), Start.AddMinutes(2));
        house.Member!.Grants.ShouldAllBe(g => g.IsOver(Start.AddMinutes(2)));
        house.Letters.ShouldBeEmpty();
    }

    [Fact]
    public void A_late_payment_within_the_grace_leaves_no_hole_and_one_after_it_begins_anew()
    {
        var policy = Policy();
        var (soon, late) = (new House(policy), new House(policy));
        foreach (var (house, days) in new[] { (soon, 30), (late, 40) })
        {
            house.Tell(Told("p", OrderEventKind.Paid, Start), Later);
            house.Tell(Told("f", OrderEventKind.RenewalFailed, Start.AddDays(28)), Later);
            house.Tell(Told("r", OrderEventKind.Renewed, Start.AddDays(days)), Later);
        }

        soon.Held.ShouldContain(h => h.StartsWith("plan:patron order:pay:1+2 2026-02-28", StringComparison.Ordinal));
        late.Held.ShouldContain(h => h.StartsWith("plan:patron order:pay:1+2 2026-03-12", StringComparison.Ordinal));
        late.Held.ShouldContain(h => h.Contains("order:pay:1 ", StringComparison.Ordinal)
            && h.EndsWith("2026-03-03T09:00:00.0000000+00:00", StringComparison.Ordinal));
    }

    [Fact]
    public void Two_lines_that_give_the_same_for_different_lengths_give_both_one_behind_the_other()
    {
        FulfilmentRule[] rules =
        [
            new() { Key = "month", Code = "MONTH", Gives = [new GivenFact(FactKind.Plan, "p")], Length = new PlanLength(0, 30) },
            new() { Key = "week", Code = "WEEK", Gives = [new GivenFact(FactKind.Plan, "p")], Length = new PlanLength(0, 7) },
        ];
        var policy = Core.Access.Policy.Build(
            [], [], [new(FactKind.Plan, "p", "P") { Grace = new PlanLength(0, 1) }], new SiteSettings(), PolicyParts.Of(new FulfilmentBook(rules))).Value;
        foreach (var codes in new[] { new[] { "MONTH", "WEEK" }, ["WEEK", "MONTH"], ["WEEK", "MONTH", "WEEK"] })
        {
            var house = new House(policy);
            house.Tell(Told("p", OrderEventKind.Paid, Start) with { Lines = [.. codes.Select(c => new OrderLine(c))] }, Start);
            var grant = house.Member!.Grants.ShouldHaveSingleItem();
            (grant.From, grant.Until).ShouldBe((Start, Start.AddDays(codes.Sum(c => c == "MONTH" ? 30 : 7) + 1)), string.Join(" ", codes));
            house.Tell(Told("r", OrderEventKind.Refunded, Start.AddDays(2)), Start.AddDays(2));
            house.Member!.Grants.ShouldAllBe(g => g.IsOver(Start.AddDays(2)));
        }
    }

    [Fact]
    public void Money_of_another_currency_says_of_no_part_how_large_it_is()
    {
        var house = new House(Policy());
        house.Tell(Told("p", OrderEventKind.Paid, Start, amount: new Money(4900, "EUR")), Start);
        house.Tell(Told("a", OrderEventKind.Refunded, Start.AddDays(1), amount: new Money(900_000, "JPY")), Start.AddDays(1));
        house.Member!.Grants.ShouldContain(g => g.IsInForce(Start.AddDays(2)));
        house.Tell(Told("b", OrderEventKind.Refunded, Start.AddDays(2)), Start.AddDays(2));
        house.Member!.Grants.ShouldAllBe(g => g.IsOver(Start.AddDays(2)));
    }

    [Fact]
    public void A_group_that_comes_with_a_plan_goes_with_it()
    {
        var house = new House(Policy());
        house.Tell(Told("p", OrderEventKind.Paid, Start), Start);
        house.Held.ShouldContain("group:friends order:pay:1 2026-01-31T09:00:00.0000000+00:00 – 2026-03-03T09:00:00.0000000+00:00");
        house.Tell(Told("r", OrderEventKind.Renewed, Start.AddDays(27)), Start.AddDays(27));
        house.Held.ShouldContain("group:friends order:pay:1+2 2026-02-28T09:00:00.0000000+00:00 – 2026-04-03T08:00:00.0000000+00:00");
        // What is bought for good stays.
        house.Tell(Told("a", OrderEventKind.Paid, Start, "2", "ATLAS"), Start);
        house.Held.ShouldContain("bought:download:atlas order:pay:2 2026-01-31T09:00:00.0000000+00:00 – ");
    }

    [Fact]
    public void A_part_that_went_back_takes_nothing_and_all_parts_together_take_everything()
    {
        var house = new House(Policy());
        house.Tell(Told("p", OrderEventKind.Paid, Start, amount: new Money(4900, "EUR")), Start);
        house.Tell(Told("a", OrderEventKind.Refunded, Start.AddDays(1), amount: new Money(900, "EUR")), Start.AddDays(1));
        house.Member!.Grants.ShouldContain(g => g.IsInForce(Start.AddDays(2)));
        house.Tell(Told("b", OrderEventKind.Refunded, Start.AddDays(2), amount: new Money(4000, "EUR")), Start.AddDays(2));
        house.Member!.Grants.ShouldAllBe(g => g.IsOver(Start.AddDays(2)));
    }

    [Fact]
    public void The_money_of_one_payment_goes_back_and_the_others_stand()
    {
        OrderEvent Told(string id, OrderEventKind kind, int month, string? payment, long? units = null) => new()
        {
            Id = id, Order = "o", Kind = kind, At = Start.AddMonths(month), Payment = payment, Amount = units is { } u ? new Money(u, "EUR") : null,
            Buyer = new OrderBuyer("mira@quill.example"), Lines = [new OrderLine("PATRON")],
        };
        OrderEvent[] told =
        [
            Told("a", OrderEventKind.Paid, 0, "p1", 4900), Told("b", OrderEventKind.Renewed, 1, "p2", 5900), Told("c", OrderEventKind.Renewed, 2, "p3", 5900),
        ];
        var one = OrderStory.Of([.. told, Told("d", OrderEventKind.Refunded, 3, "p2")]);
        one.Payments.Select(p => p.Over is not null).ShouldBe([false, true, false]);
        (one.Standing, one.RefundedUnits).ShouldBe((OrderStanding.PartRefunded, 5900));
        OrderStory.Of([.. told, Told("d", OrderEventKind.Refunded, 3, "p2", 900)]).Payments.ShouldAllBe(p => p.Over == null);
        OrderStory.Of([.. told, Told("d", OrderEventKind.Refunded, 3, "p2", 900), Told("e", OrderEventKind.Refunded, 4, "p2", 5000)]).Payments[1].Over
            .ShouldBe(Start.AddMonths(4));
        // The processor's clock is behind: what goes back came first.
        OrderStory.Of([.. told, Told("d", OrderEventKind.Refunded, 1, "p3")]).Payments[2].Over.ShouldBe(Start.AddMonths(2));
        var all = OrderStory.Of([.. told, .. new[] { "p1", "p2", "p3" }.Select(p => Told(p, OrderEventKind.Refunded, 5, p))]);
        (all.Standing, all.Payments.All(p => p.Over is not null)).ShouldBe((OrderStanding.Refunded, true));
        OrderStory.Of([.. told, Told("d", OrderEventKind.Refunded, 3, "who knows")]).Standing.ShouldBe(
            OrderStanding.Refunded, "a payment that nobody told of names none: everything goes back");
    }

    [Property(MaxTest = 300)]
    public void Figures_come_to_what_was_paid_and_what_went_back(int seed)
    {
        var (random, policy, figures) = (new Random(seed), Policy(), new OrderFigures(new SiteDates("Europe/Lisbon")));
        var stories = new List<OrderStory>();
        foreach (var events in Made(random, random.Next(1, 5)).GroupBy(e => e.Order))
        {
            var file = new OrderFile(null, [.. events.Select(e => new KeptEvent(Guid.NewGuid(), "pay", e.Id, Later, OrderEventState.Waiting, e))], null, []);
            var fresh = new FreshAccount(Guid.NewGuid(), null) { Passes = [new FreshPass(Guid.NewGuid(), "a", "d")] };
            var taken = OrderCommands.TakeUp(policy, file, fresh, Later);
            stories.Add(taken.Value.Story);
            figures.Add(new ToldOrder(taken.Value.Order, taken.Value.Story));
        }

        var rows = figures.Rows(null, null);
        rows.Sum(r => r.SalesUnits).ShouldBe(stories.Sum(s => s.Payments.Take(1).Sum(p => p.Amount?.Units ?? 0)));
        rows.Sum(r => r.RenewalUnits).ShouldBe(stories.Sum(s => s.Payments.Skip(1).Sum(p => p.Amount?.Units ?? 0)));
        rows.Sum(r => r.RefundUnits).ShouldBeGreaterThanOrEqualTo(stories.Sum(s => s.RefundedUnits));
        rows.Sum(r => r.RefundUnits).ShouldBe(stories.Sum(s => s.Refunds.Sum(f => f.Units)));
        rows.ShouldAllBe(r => r.Month.Day == 1 && r.Currency == "EUR");
        figures.Rows(rows[0].Month.AddMonths(1), null).ShouldAllBe(r => r.Month > rows[0].Month);
    }

    [Property(MaxTest = 300)]
    public void What_is_shared_out_comes_to_the_whole_and_nobody_is_a_unit_off(uint units, ushort[] weights)
    {
        var parts = (weights is { Length: > 0 } ? weights : [1]).Select(w => (long)w).ToList();
        var shares = OrderFigures.Share(units, parts);
        shares.Sum().ShouldBe(units);
        var whole = parts.Sum();
        shares.Zip(parts).ShouldAllBe(p => whole == 0 || Math.Abs(p.First - ((decimal)units * p.Second / whole)) <= 1);
    }

    [Fact]
    public void The_first_payment_pays_for_a_trial_and_the_next_goes_on_where_it_ends()
    {
        var house = new House(Policy());
        OrderEvent Told(string id, OrderEventKind kind, int days, long units) => new()
        {
            Id = id, Order = "o", Kind = kind, At = Start.AddDays(days), Amount = new Money(units, "EUR"), Payment = id,
            Buyer = new OrderBuyer("mira@quill.example"), Lines = [new OrderLine("TRY")],
        };
        house.Tell(Told("a", OrderEventKind.Paid, 0, 0), Start);
        house.Member!.Grants.ShouldHaveSingleItem().Until.ShouldBe(Start.AddDays(10), "seven days to try it, and three of grace");
        house.Tell(Told("b", OrderEventKind.Renewed, 6, 4900), Start.AddDays(6));
        var grants = house.Member.Grants.OrderBy(g => g.From).ToList();
        (grants[0].Until, grants[1].From).ShouldBe((Start.AddDays(7), Start.AddDays(7)));
        grants[1].Until.ShouldBe(Start.AddDays(7).AddMonths(1).AddDays(3));

        // What is bought for good is on trial too, and for good once it is paid.
        var rule = new FulfilmentRule { Key = "a", Code = "A", Gives = [new GivenFact(FactKind.Bought, "download:atlas")], Trial = new PlanLength(0, 7) };
        var forGood = new House(Core.Access.Policy.Build(
            [Scene.Item("download:atlas")], [], [], new SiteSettings(), PolicyParts.Of(new FulfilmentBook([rule]))).Value);
        forGood.Tell(Told("a", OrderEventKind.Paid, 0, 0) with { Lines = [new OrderLine("A")] }, Start);
        forGood.Member!.Grants.ShouldHaveSingleItem().Until.ShouldBe(Start.AddDays(7));
        forGood.Tell(Told("b", OrderEventKind.Renewed, 7, 1900), Start.AddDays(7));
        forGood.Member.Grants.ShouldContain(g => g.Until == null && g.From == Start.AddDays(7));
    }
}
