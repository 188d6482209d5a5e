using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using Xunit;

namespace WarySentinel.Storage.Tests.Prices;

public sealed class PriceStoreOnSqlite() : PriceStoreTests("sqlite");

public sealed class PriceStoreOnPostgres() : PriceStoreTests("postgres");

/// <summary>Prices, coupons and carts, as they are stored.</summary>
public abstract class PriceStoreTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Start = new(2026, 5, 3, 12, 0, 0, TimeSpan.Zero);

    private static Audience Dealers => AudienceParser.Parse("role:dealer").Value;

    private static PriceList List(string key) => new()
    {
        Key = key, Title = "The " + key, Audience = Dealers, Currency = "EUR", From = Start, Until = Start.AddDays(30), Step = 5, Version = 3,
        Lines = [new PriceLine(Id("product:a"), 1, 1290, null), new PriceLine(Id("category:b"), 10, null, 12.5m)],
    };

    private static Coupon Ten(string key) => new()
    {
        Key = key, Code = key.ToUpperInvariant(), Title = "Ten", Audience = Dealers, Amount = new Money(1000, "EUR"), Items = [Id("product:a")],
        PerPerson = null, Most = 7, Version = 2,
    };

    private static Cart Shop => new()
    { Key = "shop", At = [Address.Parse("/cart/add"), Address.Parse("/api/cart/**")], Fields = ["sku", "lines[*][sku]"], PassesUnknown = true, Version = 4 };

    private Task ApplyAsync(params Change[] changes) => store.ApplyAsync(new Edit("test", "prices", changes), "test", stop: Stop);

    [Fact]
    public async Task They_are_read_as_they_were_stored_and_a_row_that_cannot_be_read_opens_nothing()
    {
        await ApplyAsync(new PriceListPut(List("one")), new PriceListPut(List("two")), new CouponPut(Ten("ten")), new CartPut(Shop));
        var read = await Second.LoadPolicyAsync(Stop);
        read.Parts.Of<PriceBook>().All.ShouldBe([List("one"), List("two")]);
        read.Parts.Of<CouponBook>().All.ShouldBe([Ten("ten")]);
        read.Parts.Of<CartBook>().All.ShouldBe([Shop]);

        await SqlAsync(
            "UPDATE price_lists SET \"Body\" = '{\"currency\":\"EUR\",\"lines\":[{\"item\":\"product:a\",\"price\":\"free\"}]}' WHERE \"Key\" = 'one'");
        await SqlAsync("UPDATE coupons SET \"Audience\" = 'role: and'");
        await SqlAsync("UPDATE carts SET \"Body\" = 'null'");
        var bent = await Second.LoadPolicyAsync(Stop);
        bent.Faults.Select(f => f.Kind).ShouldBe(["price", "coupon", "cart"], ignoreOrder: true);
        bent.Parts.Of<PriceBook>().All.ShouldBe([List("two")]);
        bent.Parts.Of<CouponBook>().All.ShouldBeEmpty();
        // Where it is, is known; what may go there is not: nothing does.
        bent.Parts.Of<CartBook>().All.ShouldHaveSingleItem().ShouldSatisfyAllConditions(c => c.At.Count.ShouldBe(2), c => c.Fields.ShouldBeEmpty());
        foreach (var (kind, key) in new[] { ("price", "one"), ("coupon", "ten"), ("cart", "shop") })
        {
            (await store.DropUnreadableAsync(kind, key, "owner", Stop)).Dropped.ShouldBeTrue();
        }

        await ApplyAsync(new PriceListDropped("two"));
        (await Second.LoadPolicyAsync(Stop)).ShouldSatisfyAllConditions(
            p => p.Faults.ShouldBeEmpty(), p => p.Parts.Of<PriceBook>().All.ShouldBeEmpty(), p => p.Parts.Of<CartBook>().All.ShouldBeEmpty());
    }

    [Fact]
    public async Task A_fact_that_takes_the_place_of_another_does_so_in_lists_and_coupons()
    {
        await ApplyAsync(new PriceListPut(List("one")), new CouponPut(Ten("ten")));
        await ApplyAsync(new FactReplaced(Core.Facts.FactKind.Role, "dealer", AudienceParser.Parse("role:trader").Value));
        var read = await Second.LoadPolicyAsync(Stop);
        read.Parts.Of<PriceBook>().All[0].Audience.ToString().ShouldBe("role:trader");
        read.Parts.Of<CouponBook>().All[0].Audience.ToString().ShouldBe("role:trader");
    }

    [Fact]
    public async Task Two_uses_that_were_begun_on_the_same_count_are_not_both_stored()
    {
        var use = new CouponUse(Guid.CreateVersion7(), "ten", 1, "a@x.example", "o-1", Start) { Discount = new Money(990, "EUR") };
        await ApplyAsync(new CouponUsed(use));
        await Should.ThrowAsync<Exception>(() => ApplyAsync(new CouponUsed(use with { Id = Guid.CreateVersion7(), Order = "o-2", Person = "b@x.example" })));
        await Should.ThrowAsync<Exception>(() => ApplyAsync(new CouponUsed(use with { Id = Guid.CreateVersion7(), Serial = 2 })));
        await ApplyAsync(new CouponUsed(use with { Id = Guid.CreateVersion7(), Serial = 2, Order = "o-2" }));
        (await Second.CouponUsesAsync("ten", ["a@x.example", "other"], "o-1", Stop)).ShouldBe(new CouponUses(2, 2, 2, use));
        (await Second.CouponUseListAsync("ten", 2, 10, Stop)).ShouldBe([use]);
        await ApplyAsync(new CouponUseReturned(use.Id));
        (await Second.CouponUsesAsync("ten", ["a@x.example", "other"], "o-1", Stop)).ShouldBe(new CouponUses(1, 1, 2, null));
        (await Second.CouponCountsAsync(Stop))["ten"].ShouldBe(1);
    }
}
