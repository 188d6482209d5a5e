using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using WarySentinel.Service.Orders;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Orders;

/// <summary>What is bought for later, rests, becomes another plan, is for several people, or is a shared password: over real HTTP.</summary>
public sealed class PlanOrderTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example";
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private RunningSite site = null!;
    private Caller caller = null!;

    private Store Store => site.Services.GetRequiredService<Store>();

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        caller = new Caller(site);
        await MustAsync("POST", "plans", new { key = "small", title = "Small", length = "P30D" });
        await MustAsync("POST", "plans", new { key = "large", title = "Large", length = "P30D" });
        await MustAsync("PUT", "fulfilment/small", new { code = "SMALL", gives = new[] { "plan:small" } });
        await MustAsync("PUT", "fulfilment/large", new { code = "LARGE", gives = new[] { "plan:large" } });
        await MustAsync("PUT", "gates/dealer-stock", new
        {
            title = "Dealer stock", covers = new[] { "category:dealer-stock" }, audience = "plan:small or plan:large",
        });
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

    private async Task<Guid> BuyAsync(string order, string code, string email, string? amount = null, int quantity = 1) => (await MustAsync(
        "POST", "orders", new
        {
            source = "hand", order, email, name = "Nell Orchard", currency = "EUR", amount, lines = new[] { new { code, quantity, amount } },
        })).GetProperty("order").GetProperty("id").GetGuid();

    private Task<JsonElement> TellAsync(Guid order, string kind, object? more = null) =>
        MustAsync("POST", $"orders/{order}/events", more ?? new { kind = "order." + kind });

    private async Task<IReadOnlyList<Grant>> HeldAsync(string email) =>
        [.. (await Store.MemberByNameAsync(email, Stop))!.Grants.Where(g => g.Kind == FactKind.Plan && g.IsInForce(DateTimeOffset.UtcNow))];

    private async Task<IReadOnlyList<string>> LettersAsync(string to) =>
        [.. (await Store.MessagesAsync(50, null, to, stop: Stop)).OrderBy(m => m.CreatedAt).Select(m => m.Kind)];

    private async Task<string> LastTextAsync(string to)
    {
        for (var n = 0; n < 40; n++)
        {
            var letter = (await Store.TakeMessageAsync(DateTimeOffset.UtcNow.AddHours(1), Stop))!;
            if (letter.To == to && letter.Kind == "order")
            {
                return site.Services.GetRequiredService<Service.Letters.Envelopes>().Open(letter.Body).Text;
            }
        }

        return "";
    }

    private async Task<Browser> NellAsync()
    {
        var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        return nell;
    }

    [Fact]
    public async Task What_begins_by_hand_opens_nothing_until_its_buyer_says_so_and_is_begun_once()
    {
        await MustAsync("PUT", "plans/small", new { title = "Small", length = "P30D", starts = "by-hand" });
        using var nell = await NellAsync();
        var order = await BuyAsync("B-1", "SMALL", Nell);
        (await HeldAsync(Nell)).ShouldBeEmpty();
        (await LastTextAsync(Nell)).ShouldContain("begins when you say so");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);
        (await MustAsync("GET", $"orders/{order}")).GetProperty("waits")[0].GetString().ShouldBe("Small");

        using var guest = site.NewBrowser();
        await guest.PostAsync("/account/begin", ("order", order.ToString()));
        (await HeldAsync(Nell)).ShouldBeEmpty("nobody else begins it");
        var page = await nell.PageAsync("/account/");
        page.ShouldContain("not begun yet");
        await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => nell.FillAsync("/account/", "/account/begin", ("order", order.ToString()))));
        var held = (await HeldAsync(Nell)).ShouldHaveSingleItem();
        (held.Until - held.From).ShouldBe(TimeSpan.FromDays(30));
        (await Store.OrderEventsAsync("hand", "B-1", Stop)).Count(e => e.Event!.Kind == OrderEventKind.Started).ShouldBe(1);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await nell.PageAsync("/account/")).ShouldNotContain("not begun yet");
    }

    [Fact]
    public async Task What_counts_from_its_first_use_begins_where_it_opens_something_and_nowhere_else()
    {
        await MustAsync("PUT", "plans/small", new { title = "Small", length = "P30D", starts = "on-use" });
        using var nell = await NellAsync();
        await BuyAsync("U-1", "SMALL", Nell);
        (await HeldAsync(Nell)).ShouldHaveSingleItem().Until.ShouldBeNull();
        (await nell.StatusAsync("/")).ShouldBe(HttpStatusCode.OK);
        (await nell.PageAsync("/account/")).ShouldContain("counts from its first use");
        using (var staff = site.NewBrowser())
        {
            await staff.SignInAsync(RunningSite.Owner, RunningSite.Password);
            await staff.StatusAsync("/shop/dealer-stock");
        }

        (await HeldAsync(Nell)).ShouldHaveSingleItem().Until.ShouldBeNull();
        var before = DateTimeOffset.UtcNow;
        var many = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => nell.StatusAsync("/shop/dealer-stock")));
        many.ShouldAllBe(s => s == HttpStatusCode.OK);
        var held = (await HeldAsync(Nell)).ShouldHaveSingleItem();
        held.From!.Value.ShouldBeGreaterThanOrEqualTo(before.AddSeconds(-1));
        (held.Until - held.From).ShouldBe(TimeSpan.FromDays(30));
        (await Store.OrderEventsAsync("hand", "U-1", Stop)).Count(e => e.Event!.Kind == OrderEventKind.Started).ShouldBe(1);
    }

    [Fact]
    public async Task What_rests_closes_at_once_goes_on_with_all_that_was_left_and_no_letter_says_that_it_lapsed()
    {
        await MustAsync("PUT", "plans/small", new { title = "Small", length = "P30D", remind = "P7D" });
        using var nell = await NellAsync();
        var order = await BuyAsync("P-1", "SMALL", Nell, "9.00");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await TellAsync(order, "paused")).GetProperty("order").GetProperty("standing").GetString().ShouldBe("paused");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);
        var mine = await nell.PageAsync("/account/");
        mine.ShouldContain("rests since");
        mine.ShouldContain("Your orders");
        mine.ShouldContain("<span>P-1</span>");
        mine.ShouldContain("<em>rests</em>");
        mine.ShouldNotContain("9.00", Case.Sensitive, "a present is an order of whoever gets it");
        using (var pia = site.NewBrowser())
        {
            await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
            (await pia.PageAsync("/account/")).ShouldNotContain("P-1");
        }

        await site.Services.GetRequiredService<PlanReminders>().RemindAsync(Stop);
        await TellAsync(order, "paused");
        await TellAsync(order, "resumed");
        await TellAsync(order, "resumed");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        var grants = (await Store.MemberByNameAsync(Nell, Stop))!.Grants.Where(g => g.Key == "small").OrderBy(g => g.From).ToList();
        grants.Count.ShouldBe(2);
        grants.Aggregate(TimeSpan.Zero, (sum, g) => sum + (g.Until - g.From)!.Value).ShouldBe(TimeSpan.FromDays(30));
        (await LettersAsync(Nell)).ShouldBe(["order", "order-paused", "order-resumed"], ignoreOrder: true);
    }

    [Fact]
    public async Task Another_plan_takes_the_place_of_the_first_with_what_is_left_by_its_price()
    {
        var order = await BuyAsync("C-1", "SMALL", Nell, "10.00");
        await TellAsync(order, "changed", new { kind = "order.changed", currency = "EUR", lines = new[] { new { code = "LARGE", amount = "20.00" } } });
        var held = (await HeldAsync(Nell)).ShouldHaveSingleItem();
        held.Key.ShouldBe("large");
        (held.Until - held.From)!.Value.TotalDays.ShouldBe(15, 0.01);
        var story = await MustAsync("GET", $"orders/{order}");
        story.GetProperty("lines").EnumerateArray().Select(l => l.GetProperty("until").ValueKind).ShouldBe([JsonValueKind.String, JsonValueKind.Null]);
        (await LettersAsync(Nell)).ShouldBe(["order", "order"]);
        var (status, said, _) = await caller.AskAsync("POST", $"orders/{order}/events", new { kind = "order.changed" });
        ((int)status, said.GetProperty("errors")[0].GetProperty("field").GetString()).ShouldBe((422, "lines"));
        await TellAsync(order, "refunded");
        (await HeldAsync(Nell)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Seats_are_an_organisation_of_the_buyer_that_holds_what_the_order_gives_and_no_longer()
    {
        await MustAsync("PUT", "fulfilment/school", new { code = "SCHOOL", gives = new[] { "plan:small" }, quantity = "seats" });
        var order = await BuyAsync("S-1", "SCHOOL", "head@hill-school.example", "90.00", 3);
        var head = (await Store.MemberByNameAsync("head@hill-school.example", Stop))!;
        var mine = (await Store.OrganisationsOfAsync(head.Id, Stop)).ShouldHaveSingleItem();
        (mine.Seats, mine.PersonOf(head.Id)!.Manages, mine.Title).ShouldBe((3, true, "Nell Orchard"));
        head.Grants.ShouldHaveSingleItem().Source.ShouldBe(GrantSource.OfOrganisation(mine.Key));
        (await LastTextAsync("head@hill-school.example")).ShouldContain("for 3 people");

        await MustAsync("PUT", $"organisations/{mine.Key}/people/{Uri.EscapeDataString(Nell)}", new { manages = false });
        (await HeldAsync(Nell)).ShouldHaveSingleItem().Key.ShouldBe("small");
        var told = (await MustAsync("GET", $"orders/{order}")).GetProperty("seats");
        (told.GetProperty("seats").GetInt32(), told.GetProperty("taken").GetInt32()).ShouldBe((3, 2));
        await TellAsync(order, "renewed");
        (await HeldAsync(Nell)).ShouldHaveSingleItem().Until!.Value.ShouldBeGreaterThan(DateTimeOffset.UtcNow.AddDays(59));
        await TellAsync(order, "changed", new { kind = "order.changed", lines = new[] { new { code = "SCHOOL", quantity = 5 } } });
        (await Store.OrganisationAsync(mine.Id, Stop))!.Seats.ShouldBe(5);
        (await HeldAsync(Nell)).ShouldHaveSingleItem().Until!.Value.ShouldBeGreaterThan(DateTimeOffset.UtcNow.AddDays(59));
        await TellAsync(order, "paused");
        (await HeldAsync(Nell)).ShouldBeEmpty();
        await TellAsync(order, "resumed");
        (await HeldAsync(Nell)).ShouldHaveSingleItem();
        await TellAsync(order, "refunded");
        (await HeldAsync(Nell)).ShouldBeEmpty();
        (await HeldAsync("head@hill-school.example")).ShouldBeEmpty();
        (await Store.OrganisationsOfAsync(head.Id, Stop)).ShouldHaveSingleItem("who belongs to it stays");
    }

    [Fact]
    public async Task Seats_bought_with_a_mistyped_address_are_managed_by_who_bought_them_once_it_is_mended()
    {
        await MustAsync("PUT", "fulfilment/school", new { code = "SCHOOL", gives = new[] { "plan:small" }, quantity = "seats" });
        var order = await BuyAsync("M-1", "SCHOOL", "haed@hill-school.example", "90.00", 3);
        var wrong = (await Store.MemberByNameAsync("haed@hill-school.example", Stop))!;
        var mine = (await Store.OrganisationsOfAsync(wrong.Id, Stop)).ShouldHaveSingleItem();
        await MustAsync("PUT", $"organisations/{mine.Key}/people/{Uri.EscapeDataString(Nell)}", new { manages = false });
        await TellAsync(order, "mended", new { kind = "order.mended", email = "head@hill-school.example" });
        var right = (await Store.MemberByNameAsync("head@hill-school.example", Stop))!;
        var after = (await Store.OrganisationAsync(mine.Id, Stop))!;
        after.People.Select(p => p.Member).ShouldBe([(await Store.MemberByNameAsync(Nell, Stop))!.Id, right.Id], ignoreOrder: true);
        after.PersonOf(right.Id)!.Manages.ShouldBeTrue();
        (await HeldAsync("haed@hill-school.example")).ShouldBeEmpty();
        (await HeldAsync("head@hill-school.example")).ShouldHaveSingleItem();
        (await HeldAsync(Nell)).ShouldHaveSingleItem();
        await TellAsync(order, "ended");
        (await HeldAsync(Nell)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_shared_password_is_told_to_who_buys_it_once_there_is_one_that_letters_may_tell()
    {
        var (status, said, _) = await caller.AskAsync("PUT", "fulfilment/vault", new { code = "VAULT", way = "shared-password", gate = "dealer-stock" }, "*");
        ((int)status, said.GetProperty("errors")[0].GetProperty("field").GetString()).ShouldBe((422, "gate"));
        await MustAsync("PUT", "fulfilment/vault", new { code = "VAULT", way = "shared-password", gate = "clearance-vault" });
        var order = await BuyAsync("V-1", "VAULT", "vic@quill.example");
        (await MustAsync("GET", $"orders/{order}")).GetProperty("order").GetProperty("waitsFor").GetString().ShouldBe("password");

        var made = await MustAsync("POST", "passwords", new { gate = "clearance-vault", label = "Buyers", forOrders = true });
        await MustAsync("POST", $"orders/{order}/again");
        (await Store.MemberByNameAsync("vic@quill.example", Stop)).ShouldBeNull();
        var first = Regex.Match(await LastTextAsync("vic@quill.example"), "Clearance vault: ([a-z-]+)").Groups[1].Value;
        first.ShouldBe(made.GetProperty("password").GetString());
        using var browser = site.NewBrowser();
        (await browser.UnlockAsync(first)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);

        // Once it is replaced the next buyer is told the new one, and nothing that is stored or listed has either in plain.
        var next = await MustAsync("POST", $"passwords/{made.GetProperty("id").GetGuid()}/rotate", new { overlap = "PT0S" });
        await BuyAsync("V-2", "VAULT", "vera@quill.example");
        Regex.Match(await LastTextAsync("vera@quill.example"), "Clearance vault: ([a-z-]+)").Groups[1].Value.ShouldBe(next.GetProperty("password").GetString());
        (await Store.SharedPasswordAsync(made.GetProperty("id").GetGuid(), Stop))!.Sealed.ShouldBeNull("what is told no more is not kept to be told");
        await MustAsync("POST", $"passwords/{next.GetProperty("id").GetGuid()}/withdraw");
        (await Store.SharedPasswordAsync(next.GetProperty("id").GetGuid(), Stop))!.Sealed.ShouldBeNull();
        (await MustAsync("GET", "passwords?gate=clearance-vault")).ToString().ShouldNotContain(next.GetProperty("password").GetString()!);
    }
}
