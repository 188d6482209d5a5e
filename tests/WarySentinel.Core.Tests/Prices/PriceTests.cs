using System.Globalization;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Prices;

/// <summary>What things cost for whom: by a second reckoning, and where it is easily got wrong.</summary>
public sealed class PriceTests
{
    private static readonly string[] Items =
        ["product:moss", "product:gear", "product:barlow", "category:filters", "category:dealer", "category:spares", "section:shop", "site"];

    private static readonly string[] Audiences = ["anyone", "role:dealer", "group:schools", "role:dealer and not group:schools", "signed-in"];
    private static readonly string[] Currencies = ["EUR", "JPY", "KWD"];

    private static readonly Policy Site = Policy(Shop());

    private static Policy With(params PriceDraft[] drafts) =>
        drafts.Aggregate(Site, (policy, draft) => policy.After(PriceCommands.Put(policy, draft, null, Known(policy)).Value.ToStore));

    private static KnownKeys Known(Policy policy) => new(policy, _ => true);

    private static PriceDraft List(string key, string audience, string currency, params PriceLineDraft[] lines) =>
        new() { Key = key, Audience = audience, Currency = currency, Lines = lines };

    private static Price? Of(Policy policy, Visitor visitor, string item, int quantity = 1, string? currency = null) => PriceBook.Of(policy).For(
        policy.Graph, Id(item), quantity, currency, Now, l => l.Audience.Admits(visitor, "", Now));

    private static Visitor Who(int n) => (n & 3) switch
    {
        0 => Visitor.Guest,
        1 => Role("dealer"),
        2 => Visitor.With(new Grant(FactKind.Group, "schools")),
        _ => Visitor.With(new Grant(FactKind.Role, "dealer"), new Grant(FactKind.Group, "schools")),
    };

    /// <summary>The same reckoned by hand: every way up is walked, and every line is looked at.</summary>
    private static decimal? Reckoned(IReadOnlyList<PriceList> lists, Visitor visitor, string item, int quantity, string currency)
    {
        var distances = new Dictionary<ItemId, int>();
        void Up(ItemId id, int far)
        {
            if (distances.TryGetValue(id, out var known) && known <= far)
            {
                return;
            }

            distances[id] = far;
            var at = Site.Graph.Find(id)!;
            foreach (var parent in id == ItemId.Site ? [] : at.Parents.Count == 0 ? [ItemId.Site] : at.Parents)
            {
                Up(parent, far + 1);
            }
        }

        Up(Id(item), 0);
        IEnumerable<PriceLine> Lines(PriceList list)
        {
            var about = list.Lines.Where(l => l.Quantity <= quantity && distances.ContainsKey(l.Item)).ToList();
            if (about.Count == 0)
            {
                return [];
            }

            var nearest = about.Min(l => distances[l.Item]);
            return about.Where(l => distances[l.Item] == nearest).GroupBy(l => l.Item).Select(g => g.MaxBy(l => l.Quantity)!);
        }

        var power = (decimal)Math.Pow(10, Money.DecimalsOf(currency));
        var here = lists.Where(l => l.Currency == currency).ToList();
        var usual = here.Where(l => l.IsUsual).SelectMany(Lines).Where(l => l.Units is not null).Select(l => l.Units!.Value / power).Cast<decimal?>().Min();
        return here.Where(l => l.Audience.Admits(visitor, "", Now)).SelectMany(l => Lines(l).Select(line =>
        {
            if (line.Units is { } units)
            {
                return units / power;
            }

            var exact = usual * (1 - (line.Off!.Value / 100));
            var step = l.Step / power;
            return exact is null ? null : (decimal?)(Math.Floor((exact.Value / step) + 0.5m) * step);
        })).Min();
    }

    [Property(MaxTest = 400)]
    public void The_lowest_of_the_lists_that_admit_counts_and_within_one_the_nearest_line(
        (byte Item, byte Audience, byte Currency, byte Quantity, ushort Value)[] all, byte who, byte of, byte many)
    {
        var drafts = all.Take(24).GroupBy(l => (l.Audience % 5, l.Currency % 3)).Select(g => new PriceDraft
        {
            Key = $"l{g.Key.Item1}-{g.Key.Item2}", Audience = Audiences[g.Key.Item1], Currency = Currencies[g.Key.Item2],
            Rounding = g.First().Value % 4 == 0 ? new Money(5, Currencies[g.Key.Item2]).Amount : null,
            Lines = [.. g.DistinctBy(l => (l.Item % 8, l.Quantity % 4)).Select(l => l.Value % 3 == 0
                ? new PriceLineDraft(Items[l.Item % 8], (l.Quantity % 4) + 1, null, (l.Value % 101).ToString(CultureInfo.InvariantCulture))
                : new PriceLineDraft(Items[l.Item % 8], (l.Quantity % 4) + 1, new Money(l.Value, Currencies[g.Key.Item2]).Amount))],
        }).ToArray();
        var policy = With(drafts);
        var (visitor, item, quantity) = (Who(who), Items[of % 3], (many % 6) + 1);
        foreach (var currency in Currencies)
        {
            var price = Of(policy, visitor, item, quantity, currency);
            var wanted = Reckoned(PriceBook.Of(policy).All, visitor, item, quantity, currency);
            (price is null ? null : (decimal?)decimal.Parse(price.Unit.Amount, CultureInfo.InvariantCulture)).ShouldBe(wanted);
        }

        // What one pays, another list cannot raise.
        var more = policy.After(PriceCommands.Put(
            policy, List("more", "anyone", "EUR", new PriceLineDraft(item, 1, "999999.00")), null, Known(policy)).Value.ToStore);
        if (Of(policy, visitor, item, quantity, "EUR") is { } before && drafts.All(d => d.Lines!.All(l => l.Off is null)))
        {
            Of(more, visitor, item, quantity, "EUR")!.Unit.ShouldBe(before.Unit);
        }
    }

    [Fact]
    public void Cents_are_rounded_as_trade_does_and_currencies_keep_their_decimals()
    {
        var policy = With(
            List("usual", "anyone", "EUR", new PriceLineDraft("product:moss", null, "0.15"), new PriceLineDraft("product:gear", null, "10.00")),
            List("yen", "anyone", "JPY", new PriceLineDraft("product:moss", null, "105")),
            List("dinar", "anyone", "KWD", new PriceLineDraft("product:moss", null, "1.005")),
            List("half", "role:dealer", "EUR", new PriceLineDraft("site", null, null, "50")),
            List("half-yen", "role:dealer", "JPY", new PriceLineDraft("site", null, null, "50")),
            List("half-dinar", "role:dealer", "KWD", new PriceLineDraft("site", null, null, "50")),
            List("francs", "anyone", "CHF", new PriceLineDraft("product:gear", null, "10.00")),
            List("five", "role:dealer", "CHF", new PriceLineDraft("site", null, null, "0.3")) with { Rounding = "0.05" });
        Of(policy, Role("dealer"), "product:moss")!.ShouldBe(new Price(new Money(8, "EUR"), new Money(15, "EUR"), "half"));
        Of(policy, Role("dealer"), "product:moss", 1, "JPY")!.Unit.Amount.ShouldBe("53");
        Of(policy, Role("dealer"), "product:moss", 1, "KWD")!.Unit.Amount.ShouldBe("0.503");
        Of(policy, Role("dealer"), "product:gear", 1, "CHF")!.Unit.Amount.ShouldBe("9.95");
        Of(policy, Visitor.Guest, "product:moss")!.List.ShouldBe("usual");
        Of(policy, Visitor.Guest, "product:barlow").ShouldBeNull();
        new Money(123456, "EUR").Told(SiteCulture.Of("de")).ShouldBe("1.234,56 €");
        new Money(123456, "EUR").Told(SiteCulture.Of("en")).ShouldBe("€1,234.56");
        new Money(1200, "CHF").Told(SiteCulture.Of("en")).ShouldBe("CHF 12.00");
        new Money(1200, "JPY").Told(SiteCulture.Of("ja")).ShouldContain("1,200");
    }

    [Fact]
    public void A_list_counts_in_its_time_and_quantities_have_steps()
    {
        var policy = With(
            List("usual", "anyone", "EUR", new PriceLineDraft("product:moss", null, "10.00"), new PriceLineDraft("product:moss", 10, "9.00")),
            List("week", "anyone", "EUR", new PriceLineDraft("product:moss", null, "8.00")) with { From = "2026-05-04", Until = "2026-05-10" });
        Of(policy, Visitor.Guest, "product:moss")!.Unit.Units.ShouldBe(1000);
        Of(policy, Visitor.Guest, "product:moss", 9)!.Unit.Units.ShouldBe(1000);
        Of(policy, Visitor.Guest, "product:moss", 10)!.Unit.Units.ShouldBe(900);
        PriceBook.Of(policy).For(policy.Graph, Id("product:moss"), 1, null, Now.AddDays(2), _ => true)!.Unit.Units.ShouldBe(800);
        PriceBook.Of(policy).For(policy.Graph, Id("product:moss"), 1, null, Now.AddDays(9), _ => true)!.Unit.Units.ShouldBe(1000);
    }

    [Theory]
    [InlineData("1.200", "EUR", "price-amount")]
    [InlineData("1,20", "EUR", "price-amount")]
    [InlineData("-1", "EUR", "price-amount")]
    [InlineData("1e3", "EUR", "price-amount")]
    [InlineData("12.5", "JPY", "price-amount")]
    [InlineData("99999999999999999999999999", "EUR", "price-amount")]
    [InlineData("1", "euro", "price-currency")]
    public void What_is_no_price_is_told_where_it_stands(string price, string currency, string code)
    {
        var put = PriceCommands.Put(Site, List("a", "anyone", currency, new PriceLineDraft("product:moss", null, price)), null, Known(Site));
        put.Problem!.Code.ShouldBe(code);
        put.Problem.Faults[0].Field.ShouldBe(code == "price-amount" ? "lines[0].price" : "currency");
    }

    [Fact]
    public void Every_fault_of_a_list_is_told_at_once_and_an_unknown_item_names_the_nearest()
    {
        var put = PriceCommands.Put(
            Site,
            List("a", "role:deal", "EUR", new PriceLineDraft("product:mos", null, "1"), new PriceLineDraft("product:gear", 0, "1", "2"), new PriceLineDraft(
                "product:gear", null, null, "101"), new PriceLineDraft("product:moss", null, "1"), new PriceLineDraft("product:moss", 1, "2")),
            null, Known(Site));
        put.Problem!.Faults.Select(f => f.Field).ShouldBe(
            ["audience", "lines[0].item", "lines[1].quantity", "lines[1].price", "lines[2].off", "lines[4].item"], ignoreOrder: true);
        put.Problem.Faults.ShouldContain(f => f.Message.ToString()!.Contains("product:moss"));
    }

    [Fact]
    public void An_item_goes_whatever_lists_say_of_it_and_its_lines_go_with_the_next_change()
    {
        var policy = With(List("a", "anyone", "EUR", new PriceLineDraft("product:moss", null, "1.00"), new PriceLineDraft("product:gear", null, "2.00")));
        var gone = policy.After(new Edit("test", "", [new ItemsDropped([Id("product:moss")])]));
        Of(gone, Visitor.Guest, "product:moss").ShouldBeNull();
        Of(gone, Visitor.Guest, "product:gear")!.Unit.Units.ShouldBe(200);
        var drafted = PriceDraft.Of(PriceBook.Of(gone).Find("a")!);
        PriceCommands.Put(gone, drafted with { Title = "Other" }, 1, Known(gone)).Value.Value.Lines.ShouldHaveSingleItem().Item.ShouldBe(Id("product:gear"));
        PriceCommands.Put(gone, PriceDraft.Head(PriceBook.Of(gone).Find("a")!) with { Title = "Other" }, 1, Known(gone)).Value.Value.Lines.Count.ShouldBe(1);
        PriceCommands.Put(gone, List("b", "anyone", "EUR", new PriceLineDraft("product:moss", null, "1.00")), null, Known(gone)).Problem!.Code
            .ShouldStartWith("item-unknown");
    }

    [Property(MaxTest = 300)]
    public void What_a_coupon_takes_off_is_shared_to_the_last_cent((ushort Price, byte Quantity)[] lines, ushort amount, bool percent)
    {
        var items = lines.Take(3).Select((l, n) => (Item: Items[n], l.Price, Quantity: (l.Quantity % 9) + 1)).ToList();
        if (items.Count == 0)
        {
            return;
        }

        var policy = With(List("usual", "anyone", "EUR", [.. items.Select(i => new PriceLineDraft(i.Item, null, new Money(i.Price, "EUR").Amount))]));
        var off = new CouponDraft
        {
            Key = "off", Off = percent ? ((amount % 99) + 1).ToString(CultureInfo.InvariantCulture) : null,
            Amount = percent ? null : new Money(amount + 1, "EUR").Amount, Currency = percent ? null : "EUR"
        };
        var coupon = CouponCommands.Put(policy, off, null, Known(policy)).Value.Value;
        var quote = Quote.Of(policy, Visitor.Guest, [.. items.Select(i => new CartLine(Id(i.Item), i.Quantity))], null, coupon, Now);
        var sum = items.Sum(i => (long)i.Price * i.Quantity);
        quote.Sum!.Value.Units.ShouldBe(sum);
        quote.Lines.Sum(l => l.Discount!.Value.Units).ShouldBe(quote.Discount!.Value.Units);
        quote.Total!.Value.Units.ShouldBe(sum - quote.Discount.Value.Units);
        foreach (var line in quote.Lines)
        {
            line.Discount!.Value.Units.ShouldBeInRange(0, line.Total!.Value.Units);
        }

        if (percent)
        {
            Math.Abs(quote.Discount.Value.Units - (sum * (decimal)((amount % 99) + 1) / 100)).ShouldBeLessThanOrEqualTo(items.Count / 2m);
        }
        else
        {
            quote.Discount.Value.Units.ShouldBe(Math.Min(sum, amount + 1));
        }
    }

    [Fact]
    public void What_may_not_be_bought_is_in_no_sum_and_what_may_not_be_known_has_no_price()
    {
        var guarded = Policy(Shop(), Gate("trade", "category:dealer") with { Acts = Acts.Price }, Gate("moss", "product:moss") with { Acts = Acts.Buy });
        var policy = guarded.After(PriceCommands.Put(
            guarded, List("usual", "anyone", "EUR", new PriceLineDraft("section:shop", null, "10.00")), null, Known(guarded)).Value.ToStore);
        var lines = new[] { new CartLine(Id("product:moss"), 2), new CartLine(Id("product:gear"), 1), new CartLine(Id("product:barlow"), 3) };
        var guest = Quote.Of(policy, Visitor.Guest, lines, null, null, Now);
        guest.Lines.Select(l => (l.MayPrice, l.MayBuy, l.Total?.Units)).ShouldBe([(true, false, null), (false, true, null), (false, true, null)]);
        guest.Total!.Value.Units.ShouldBe(0);
        Quote.Of(policy, Role("dealer"), lines, null, null, Now).Total!.Value.Units.ShouldBe(6000);
    }

    [Fact]
    public void A_coupon_is_for_whom_it_was_given_to_so_often_and_so_long()
    {
        var coupon = CouponCommands.Put(
            Site, new CouponDraft { Key = "sky", Audience = "role:dealer", Off = "10", From = "2026-05-02", Until = "2026-05-04", Most = 2 }, null, Known(Site))
            .Value.Value;
        var none = new CouponUses(0, 0, 0, null);
        string? Why(Visitor visitor, string? person, CouponUses uses, int days = 0) =>
            CouponCommands.WhyNot(Site, coupon, new CouponUser(visitor, person), uses, Now.AddDays(days))?.Code;
        coupon.Code.ShouldBe("SKY");
        Why(Role("dealer"), "a", none).ShouldBeNull();
        Why(Role("guide"), "a", none).ShouldBe("coupon-not-for");
        Why(Visitor.Guest, "a", none).ShouldBe("coupon-not-for-guest");
        Why(Role("dealer"), null, none).ShouldBe("coupon-who");
        Why(Role("dealer"), "a", new CouponUses(1, 1, 1, null)).ShouldBe("coupon-used");
        Why(Role("dealer"), "a", new CouponUses(2, 0, 2, null)).ShouldBe("coupon-used-up");
        Why(Role("dealer"), "a", none, -2).ShouldBe("coupon-early");
        Why(Role("dealer"), "a", none, 3).ShouldBe("coupon-over");
        var ended = new Visitor { IsSignedIn = true, Grants = [new Grant(FactKind.Role, "dealer", null, Now)] };
        Why(ended, "a", none).ShouldBe("coupon-not-for");
        var there = new CouponUse(Guid.NewGuid(), "sky", 1, "a", "o-1", Now);
        CouponCommands.Use(Site, coupon, new CouponUser(Role("dealer"), "a"), "o-1", new CouponUses(1, 1, 1, there), null, Now).Value
            .ShouldSatisfyAllConditions(e => e.Value.ShouldBe(there), e => e.ToStore.Changes.ShouldBeEmpty());
        CouponCommands.Use(Site, coupon, new CouponUser(Role("dealer"), "b"), "o-1", new CouponUses(1, 0, 1, there), null, Now).Problem!.Code
            .ShouldBe("coupon-order-other");
    }
}
