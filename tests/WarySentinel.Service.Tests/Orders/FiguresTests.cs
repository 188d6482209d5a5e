using System.Net;
using System.Text.Json;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.Orders;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Orders;

/// <summary>What orders came to, over real HTTP.</summary>
public sealed class FiguresTests : IAsyncLifetime
{
    private readonly FakeTimeProvider clock = new(new DateTimeOffset(2027, 3, 10, 12, 0, 0, TimeSpan.Zero));
    private RunningSite site = null!;
    private Caller caller = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(time: clock);
        caller = new Caller(site);
        await MustAsync("POST", "plans", new { key = "moon", title = "Moon pass", length = "P1M" });
        await MustAsync("PUT", "fulfilment/moon", new { code = "MOON", gives = new[] { "plan:moon" } });
    }

    public async ValueTask DisposeAsync()
    {
        caller.Dispose();
        await site.DisposeAsync();
    }

    private async Task<JsonElement> MustAsync(string method, string path, object? body = null)
    {
        var (status, said, _) = await caller.AskAsync(method, path, body, "*");
        ((int)status).ShouldBeLessThan(300, $"{method} {path}: {said}");
        return said;
    }

    private Task<JsonElement> TellAsync(string order, string kind, string at, string? amount = null, string? currency = "EUR", string? payment = null) =>
        MustAsync("POST", "orders", new
        {
            order, kind = "order." + kind, at, amount, currency = amount is null ? null : currency, payment, email = order + "@x.example",
            lines = new[] { new { code = "MOON" } },
        });

    [Fact]
    public async Task They_come_from_the_orders_alone_by_month_and_say_what_lapsed_and_is_about_to()
    {
        await TellAsync("a", "paid", "2027-01-05T10:00:00Z", "10.00");
        await TellAsync("a", "renewed", "2027-02-05T10:00:00Z", "10.00", payment: "a2");
        await TellAsync("a", "renewed", "2027-03-05T10:00:00Z", "12.50", payment: "a3");
        await TellAsync("b", "paid", "2027-01-20T10:00:00Z", "10.00");
        await TellAsync("c", "paid", "2027-02-01T00:00:00Z", "1500", "JPY");
        await TellAsync("c", "refunded", "2027-02-03T10:00:00Z");
        await TellAsync("d", "paid", "2027-03-01T10:00:00Z");
        var found = await site.Client.OrderFiguresAsync(null, null, 40, Stop);
        OrderFiguresRow Row(string month, string? currency) => found.Rows.Single(r => r.Month == month && r.Currency == currency);
        Row("2027-01", "EUR").ShouldBe(new OrderFiguresRow("2027-01", "plan:moon", "Moon pass", "EUR", 2, "20.00", 0, "0.00", 0, "0.00", 0));
        Row("2027-02", "EUR").ShouldSatisfyAllConditions(
            r => (r.Sales, r.Renewals, r.RenewalsAmount).ShouldBe((0, 1, "10.00")), r => r.Lapses.ShouldBe(1, "b was not renewed"));
        Row("2027-02", "JPY").ShouldSatisfyAllConditions(
            r => (r.SalesAmount, r.Refunds, r.RefundsAmount).ShouldBe(("1500", 1, "1500")), r => r.Lapses.ShouldBe(0, "whose money went back, lapsed not"));
        Row("2027-03", "EUR").RenewalsAmount.ShouldBe("12.50");
        Row("2027-03", null).ShouldSatisfyAllConditions(r => r.Sales.ShouldBe(1), r => r.SalesAmount.ShouldBeNull());
        found.Soon.Select(s => (s.Currency, s.Members, s.Amount)).ShouldBe([("EUR", 1, "12.50"), (null, 1, null)]);

        (await site.Client.OrderFiguresAsync("2027-02", "2027-02", null, Stop)).Rows.Select(r => r.Month).Distinct().ShouldBe(["2027-02"]);
        var file = (await site.Client.OrderFiguresFileAsync("2027-01", "2027-01", Stop)).Split("\r\n");
        file[0].ShouldStartWith("month,what,title,currency,sales,sales-amount");
        file[1].ShouldBe("2027-01,plan:moon,Moon pass,EUR,2,20.00,0,0.00,0,0.00,0");
        (await caller.AskAsync("GET", "orders/figures?from=2027-3")).ShouldSatisfyAllConditions(
            a => a.Status.ShouldBe(HttpStatusCode.UnprocessableEntity), a => a.Body.ToString().ShouldContain("is no month"));
    }
}
