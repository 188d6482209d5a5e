using Shouldly;
using WarySentinel.Contract.Orders;
using WarySentinel.Contract.Prices;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Prices;

/// <summary>Orders that were paid with a coupon count it by themselves.</summary>
public sealed class CouponOrderTests : IAsyncLifetime
{
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        await site.Client.PutPriceListAsync("usual", new PriceListDraft(null, "anyone", "EUR", Lines: [new("product:fern-25", 1, "119.00")]), null, Stop);
        await site.Client.PutCouponAsync("lamp", new CouponDraft(Audience: "anyone", Off: "10"), null, Stop);
        await site.Client.PutFulfilmentAsync("fern", new FulfilmentDraft { Code = "FERN", Gives = ["bought:product:fern-25"] }, Stop);
    }

    public async ValueTask DisposeAsync() => await site.DisposeAsync();

    private async Task<OrderView> TellAsync(string order, string email, string kind = "order.paid", string? amount = null) => (await site.Client.TellOrderAsync(
        new OrderDraft
        {
            Source = "hand", Order = order, Kind = kind, Email = email, Lines = [new OrderLineDraft("FERN")], Coupon = " lamp ",
            Amount = amount, Currency = "EUR",
        },
        Stop)).Order;

    private async Task<IEnumerable<string>> UsedAsync() =>
        (await site.Client.CouponUsesAsync("lamp", null, Stop)).Items.Select(u => u.Order).Order(StringComparer.Ordinal);

    private async Task<string?> FaultAsync(string address) => (await site.Client.QuoteAsync(
        new QuoteQuestion(null, [new("product:fern-25")], Coupon: "LAMP", Person: address), Stop)).CouponFault;

    [Fact]
    public async Task Orders_that_come_at_once_each_count_their_coupon_once_however_often_they_are_told()
    {
        await Task.WhenAll(Enumerable.Range(0, 24).Select(n => TellAsync($"c-{n % 12}", $"buyer{n % 12}@x.example")));
        (await UsedAsync()).ShouldBe(Enumerable.Range(0, 12).Select(n => $"c-{n}").Order(StringComparer.Ordinal));
        // What the shop says of the same order too is the same use.
        (await site.Client.UseCouponAsync(new CouponUseDraft("LAMP", "c-3", null, "buyer3@x.example", null, null), Stop)).Order.ShouldBe("c-3");
        (await UsedAsync()).Count().ShouldBe(12);
    }

    [Fact]
    public async Task Who_used_it_before_they_had_an_account_has_used_it_and_gets_it_back_with_all_of_the_money()
    {
        (await FaultAsync("ada@quill.example")).ShouldBeNull();
        await site.Client.UseCouponAsync(new CouponUseDraft("LAMP", "k-1", null, "ada@quill.example", null, null), Stop);
        var order = await TellAsync("k-1", "ada@quill.example", amount: "107.10");
        order.Member.ShouldNotBeNull();
        (await FaultAsync("Ada@Quill.example")).ShouldNotBeNull();
        (await UsedAsync()).ShouldBe(["k-1"]);
        (await site.Client.OrderAsync(order.Id, Stop)).Coupon.ShouldBe("lamp");

        await site.Client.TellOfOrderAsync(order.Id, new OrderDraft { Kind = "order.refunded", Amount = "7.10", Currency = "EUR" }, Stop);
        (await UsedAsync()).ShouldBe(["k-1"]);
        await site.Client.TellOfOrderAsync(order.Id, new OrderDraft { Kind = "order.refunded" }, Stop);
        (await UsedAsync()).ShouldBeEmpty();
        (await FaultAsync("ada@quill.example")).ShouldBeNull();
        (await site.Client.HistoryAsync("lamp", 10, Stop)).Select(h => h.Action).ShouldContain("coupon.return");
    }
}
