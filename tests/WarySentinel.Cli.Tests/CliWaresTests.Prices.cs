using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Prices, coupons and carts on the command line.</summary>
public sealed partial class CliWaresTests
{
    [Fact]
    public async Task Prices_are_set_imported_quoted_and_removed_and_what_is_not_said_stays()
    {
        (await RunAsync("item", "add", "product:quoted", "--title", "Quoted lamp", "--addresses", "/product/quoted")).Exit.ShouldBe(0);
        (await RunAsync("price", "list")).Exit.ShouldBe(0);
        (await RunAsync("price", "set", "usual", "--title", "Usual", "--for", "anyone", "--currency", "EUR", "--line", "product:quoted=12.90")).Out
            .ShouldContain("has 1 lines in EUR, for anyone");
        (await RunAsync("price", "set", "trade", "--title", "Trade", "--for", "role:dealer", "--currency", "EUR", "--line", "product:quoted=25%",
            "product:quoted@10=8.00")).Out.ShouldContain("has 2 lines");
        (await RunAsync("price", "set", "trade", "--until", "2099-12-31")).Out.ShouldContain("has 2 lines", Case.Sensitive, "what is not said stays");
        (await RunAsync("price", "set", "trade", "--line", "product:quoted=12.905")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("12.905"));
        (await RunAsync("price", "set", "trade", "--line", "nonsense")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("ITEM=12.90"));
        (await RunAsync("price", "quote", "guest", "product:quoted=2")).Out.ShouldContain("25.80 EUR");
        (await RunAsync("price", "quote", "role:dealer", "product:quoted=10")).Out.ShouldContain("80.00 EUR");
        (await RunAsync("price", "quote", "role:dealer", "product:quoted=one")).Exit.ShouldBe(2);

        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, "item,quantity,price,off\nproduct:quoted,,11.50,\n");
        (await RunAsync("price", "import", "usual", file, "--dry-run")).Out.ShouldContain("Nothing was stored.");
        (await RunAsync("price", "import", "usual", file)).Out.ShouldContain("1 changed");
        (await RunAsync("price", "export", "usual")).Out.ShouldContain("product:quoted,1,11.50");
        (await RunAsync("price", "show", "trade")).Out.ShouldContain("product:quoted");
        (await RunAsync("price", "remove", "trade")).Out.ShouldContain("Removed the price list trade.");
        (await RunAsync("price", "remove", "trade")).Exit.ShouldBe(3);
        (await RunAsync("price", "remove", "usual")).Exit.ShouldBe(0);
    }

    [Fact]
    public async Task Coupons_are_used_once_given_back_and_refused_with_a_reason()
    {
        (await RunAsync("coupon", "set", "spring", "--code", "SPRING", "--for", "anyone", "--off", "10%")).Out.ShouldContain(
            "SPRING takes 10 % off for anyone, once for one person.");
        (await RunAsync("coupon", "set", "spring", "--off", "120%")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("120"));
        (await RunAsync("coupon", "use", "spring", "K-1", "--who", "ada@coupon.example")).Out.ShouldContain("uses the coupon spring");
        (await RunAsync("coupon", "use", "SPRING", "K-1", "--who", "ada@coupon.example")).Exit.ShouldBe(0, "said again it is used once");
        (await RunAsync("coupon", "use", "SPRING", "K-2", "--who", "ada@coupon.example")).Exit.ShouldNotBe(0);
        (await RunAsync("coupon", "uses", "spring")).Out.ShouldContain("ada@coupon.example");
        (await RunAsync("coupon", "return", "spring", "K-1")).Out.ShouldContain("no longer uses it");
        (await RunAsync("coupon", "use", "SPRING", "K-2", "--who", "ada@coupon.example")).Exit.ShouldBe(0);
        (await RunAsync("coupon", "list")).Out.ShouldContain("SPRING");
        (await RunAsync("coupon", "remove", "spring")).Exit.ShouldBe(0);
        (await RunAsync("cart", "set", "till", "--at", "/cart/add", "--fields", "sku")).Exit.ShouldBe(0);
        (await RunAsync("cart", "list")).Out.ShouldContain("/cart/add");
        (await RunAsync("cart", "set", "till", "--at", "cart")).Exit.ShouldBe(2);
        (await RunAsync("cart", "remove", "till")).Exit.ShouldBe(0);
    }
}
