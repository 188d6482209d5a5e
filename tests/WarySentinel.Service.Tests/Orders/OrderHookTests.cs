using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;
using WarySentinel.Service.Orders;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Orders;

/// <summary>Orders over real HTTP: told by web hook, taken up, told back to their buyers.</summary>
public sealed class OrderHookTests : IAsyncLifetime
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly HookSender sender;
    private readonly string secret = HookSender.NewSecret();
    private RunningSite site = null!;
    private Caller caller = null!;

    public OrderHookTests() => sender = new HookSender(secret);

    private string Hook => site.Site + "/sentinel/hooks/pay";

    private Store Store => site.Services.GetRequiredService<Store>();

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        caller = new Caller(site);
        await MustAsync("PUT", "plans/patron", new { key = "patron", title = "Patron", length = "P1Y" });
        await MustAsync("PUT", "fulfilment/patron", new { code = "PATRON", gives = new[] { "plan:patron" }, landsOn = "/members" });
        await MustAsync("PUT", "order-sources/pay", new { title = "Pay", checkout = "https://pay.example/?c={code}&t={token}&r={return}", opensDoor = true });
        await MustAsync("POST", "order-sources/pay/secret", new { secret });
    }

    public async ValueTask DisposeAsync()
    {
        caller.Dispose();
        sender.Dispose();
        await site.DisposeAsync();
    }

    private async Task<JsonElement> MustAsync(string method, string path, object? body = null)
    {
        var (status, said, _) = await caller.AskAsync(method, path, body, "*");
        ((int)status).ShouldBeLessThan(300, $"{method} {path}: {said}");
        return said;
    }

    /// <summary>The order, once it is as it should be.</summary>
    private async Task<JsonElement> OrderAsync(string order, Func<JsonElement, bool> until)
    {
        for (var n = 0; ; n++)
        {
            var found = await MustAsync("GET", "orders?q=" + Uri.EscapeDataString(order));
            if (found.GetProperty("items").EnumerateArray().FirstOrDefault(o => o.GetProperty("order").GetString() == order)
                is { ValueKind: not JsonValueKind.Undefined } there
                && until(there))
            {
                return there;
            }

            n.ShouldBeLessThan(300, found.ToString());
            await Task.Delay(50, Stop);
        }
    }

    private static bool IsDone(JsonElement order) => order.GetProperty("handling").GetString() == "done";

    private async Task<IReadOnlyList<string>> LettersAsync(string to) => [.. (await Store.MessagesAsync(50, null, to, stop: Stop)).Select(m => m.Kind)];

    [Fact]
    public async Task A_paid_order_opens_the_door_once_however_often_it_is_told_and_a_refund_closes_it()
    {
        var paid = HookSender.Event("e1", "paid", "A-1", "Ada.Buys@Quill.example.", amount: "49.00");
        var many = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => sender.SendAsync(Hook, paid)));
        many.ShouldAllBe(s => s == HttpStatusCode.Accepted);
        (await OrderAsync("A-1", IsDone)).GetProperty("email").GetString().ShouldBe("ada.buys@quill.example");
        var member = await Store.MemberByNameAsync("ada.buys@quill.example", Stop);
        member!.Status.ShouldBe(MemberStatus.Invited);
        member.Grants.ShouldHaveSingleItem().Fact.ShouldBe("plan:patron");
        (await LettersAsync(member.Email)).ShouldBe(["order"]);

        await sender.SendAsync(Hook, HookSender.Event("e2", "refunded", "A-1"));
        await OrderAsync("A-1", o => o.GetProperty("standing").GetString() == "refunded");
        (await Store.MemberAsync(member.Id, Stop))!.Grants.ShouldAllBe(g => g.IsOver(DateTimeOffset.UtcNow));
        (await LettersAsync(member.Email)).ShouldBe(["order", "order-ended"], ignoreOrder: true);
    }

    [Fact]
    public async Task What_is_not_signed_right_is_refused_and_changes_nothing()
    {
        var body = HookSender.Event("bad", "paid", "B-1", "eve@quill.example");
        (await sender.SendAsync(Hook, body, signedWith: HookSender.NewSecret())).ShouldBe(HttpStatusCode.Forbidden);
        (await sender.SendAsync(Hook, body, stamp: DateTimeOffset.UtcNow.AddMinutes(-6))).ShouldBe(HttpStatusCode.Forbidden);
        (await sender.SendAsync(Hook, body, stamp: DateTimeOffset.UtcNow.AddMinutes(6))).ShouldBe(HttpStatusCode.Forbidden);
        (await sender.SendAsync(site.Site + "/sentinel/hooks/nobody", body)).ShouldBe(HttpStatusCode.NotFound);
        using var http = new HttpClient();
        (await http.PostAsync(Hook, new ByteArrayContent(body), Stop)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await sender.SendAsync(Hook, new byte[300_000])).ShouldBe(HttpStatusCode.RequestEntityTooLarge);
        (await MustAsync("GET", "orders")).GetProperty("items").GetArrayLength().ShouldBe(0);
        (await MustAsync("GET", "orders/unreadable")).GetProperty("items").GetArrayLength().ShouldBe(0);
        (await MustAsync("GET", "history?action=hook.refused")).GetProperty("items").GetArrayLength().ShouldBeGreaterThan(1);

        // The secret of before counts a day yet; at once means at once.
        await MustAsync("POST", "order-sources/pay/secret", new { });
        (await sender.SendAsync(Hook, HookSender.Event("old", "paid", "B-2", "old@quill.example"))).ShouldBe(HttpStatusCode.Accepted);
        await MustAsync("POST", "order-sources/pay/secret", new { atOnce = true });
        (await sender.SendAsync(Hook, body)).ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task A_batch_is_as_its_events_one_by_one_and_what_of_it_cannot_be_read_keeps_no_other_waiting()
    {
        byte[] Batch(params byte[][] events) => Encoding.UTF8.GetBytes($"[{string.Join(',', events.Select(Encoding.UTF8.GetString))}]");
        var paid = HookSender.Event("m1", "paid", "M-1", "mo@quill.example");
        var odd = """{"specversion":"1.0","id":"m2","type":"order.paid","data":{}}"""u8.ToArray();
        var batch = Batch(paid, odd, HookSender.Event("m3", "paid", "M-3", "m3@quill.example"));
        (await sender.SendAsync(Hook, batch)).ShouldBe(HttpStatusCode.Accepted);
        (await sender.SendAsync(Hook, batch)).ShouldBe(HttpStatusCode.Accepted, "told twice is told once");
        (await sender.SendAsync(Hook, paid)).ShouldBe(HttpStatusCode.Accepted);
        await OrderAsync("M-1", IsDone);
        await OrderAsync("M-3", IsDone);
        (await LettersAsync("mo@quill.example")).ShouldBe(["order"]);
        (await MustAsync("GET", "orders/unreadable")).GetProperty("items").GetArrayLength().ShouldBe(1);
        (await sender.SendAsync(Hook, "[]"u8.ToArray())).ShouldBe(HttpStatusCode.Accepted);
        (await MustAsync("GET", "orders")).GetProperty("items").GetArrayLength().ShouldBe(2);
    }

    [Fact]
    public async Task What_cannot_be_read_waits_and_is_taken_up_when_somebody_says_how()
    {
        var odd = Encoding.UTF8.GetBytes("""
            {"event":"charge.ok","charge":{"ref":"C-1","cents":4900},"who":{"mail":"cy@quill.example"},"cart":[{"sku":"PATRON","n":2}]}
            """);
        (await sender.SendAsync(Hook, odd, "msg_c")).ShouldBe(HttpStatusCode.Accepted);
        var waiting = (await MustAsync("GET", "orders/unreadable")).GetProperty("items")[0];
        waiting.GetProperty("faults").GetArrayLength().ShouldBeGreaterThan(0);
        var id = waiting.GetProperty("id").GetString();
        (await caller.AskAsync("POST", $"orders/unreadable/{id}/again")).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);

        var mapped = new
        {
            fields = new Dictionary<string, string>
            {
                ["kind"] = "/event", ["order"] = "/charge/ref", ["amount"] = "/charge/cents", ["email"] = "/who/mail", ["lines"] = "/cart", ["code"] = "/sku",
                ["quantity"] = "/n",
            },
            kinds = new Dictionary<string, string> { ["charge.ok"] = "order.paid", ["ping"] = "ignore" }, inUnits = true, currency = "EUR",
        };
        var tried = await MustAsync("POST", "order-sources/try", new { draft = mapped, example = Encoding.UTF8.GetString(odd) });
        tried.GetProperty("read").GetProperty("amount").GetString().ShouldBe("49.00 EUR");
        await MustAsync("PUT", "order-sources/pay", mapped);
        await MustAsync("POST", $"orders/unreadable/{id}/again");
        (await OrderAsync("C-1", IsDone)).GetProperty("total").GetString().ShouldBe("49.00");
        (await MustAsync("GET", "orders/unreadable")).GetProperty("items").GetArrayLength().ShouldBe(0);
        (await sender.SendAsync(Hook, """{"event":"ping"}"""u8.ToArray())).ShouldBe(HttpStatusCode.Accepted);
        (await MustAsync("GET", "orders/unreadable")).GetProperty("items").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task An_unknown_code_waits_honestly_and_is_caught_up_when_a_rule_comes()
    {
        await sender.SendAsync(Hook, HookSender.Event("d1", "paid", "D-1", "dee@quill.example", "ALMANAC"));
        var order = await OrderAsync("D-1", o => o.GetProperty("handling").GetString() == "waiting");
        order.GetProperty("waitsFor").GetString().ShouldBe("code");
        (await LettersAsync("dee@quill.example")).ShouldBe(["order-waiting"]);
        (await Store.MemberByNameAsync("dee@quill.example", Stop)).ShouldBeNull();
        await MustAsync("PUT", "fulfilment/almanac", new { code = "ALMA*", gives = new[] { "role:dealer" } });
        await site.Services.GetRequiredService<OrderRound>().RunDueAsync(Stop);
        await OrderAsync("D-1", IsDone);
        (await LettersAsync("dee@quill.example")).ShouldBe(["order", "order-waiting"], ignoreOrder: true);
        var twin = await caller.AskAsync("PUT", "fulfilment/other", new { code = "alma*", gives = new[] { "role:dealer" } });
        twin.Body.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("code");
        (await caller.AskAsync("PUT", "fulfilment/staff", new { code = "KEYS", gives = new[] { "role:owner" } }))
            .Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        // A plan that a rule gives stays while it does.
        (await caller.AskAsync("DELETE", "plans/patron", null, "*")).Status.ShouldBe(HttpStatusCode.Conflict);
    }

    [Fact]
    public async Task Whoever_paid_reads_where_the_letter_goes_mends_the_address_once_and_goes_in_by_the_browser_that_paid()
    {
        using var buyer = site.NewBrowser();
        var sent = await buyer.GetAsync("/account/pay?code=PATRON");
        var token = System.Web.HttpUtility.ParseQueryString(sent.Headers.Location!.Query)["t"]!;
        (await buyer.PageAsync("/account/thanks?order=" + token)).ShouldContain("One moment");
        (await buyer.GetAsync("/account/thanks?order=" + token)).Headers.GetValues("Refresh").ShouldHaveSingleItem().ShouldContain("n=1");
        (await buyer.PageAsync($"/account/thanks?order={token}&n=20")).ShouldContain("nothing is lost");
        await sender.SendAsync(Hook, HookSender.Event("t1", "paid", "T-1", "tpyo@quill.example", token: token));
        await OrderAsync("T-1", IsDone);

        var page = await buyer.PageAsync("/account/thanks");
        page.ShouldContain("t•••@quill.example");
        page.ShouldNotContain("tpyo@");
        page.ShouldContain("/thanks/enter");
        using var other = site.NewBrowser();
        var seen = await other.PageAsync("/account/thanks?order=" + token);
        seen.ShouldContain("t•••@quill.example");
        seen.ShouldNotContain("/thanks/enter");
        (await other.FillAsync("/account/thanks?order=" + token, "/account/thanks/enter", ("order", token))).StatusCode.ShouldBe(HttpStatusCode.BadRequest);

        var mended = await other.FillAsync("/account/thanks?order=" + token, "/account/thanks/mend", ("order", token), ("email", "typo@quill.example"));
        mended.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await LettersAsync("tpyo@quill.example")).ShouldBe(["order", "order-mended"], ignoreOrder: true);
        (await LettersAsync("typo@quill.example")).ShouldBe(["order"]);
        (await Store.MemberByNameAsync("tpyo@quill.example", Stop))!.Grants.ShouldBeEmpty();
        (await Store.MemberByNameAsync("typo@quill.example", Stop))!.Grants.ShouldHaveSingleItem();
        (await other.FillAsync("/account/thanks?order=" + token, "/account/thanks/mend", ("order", token), ("email", "third@quill.example")))
            .StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await other.FillAsync("/account/thanks?order=" + token, "/account/thanks/again", ("order", token)))
            .StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);

        var entered = await buyer.FillAsync("/account/thanks", "/account/thanks/enter", ("order", token));
        entered.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        entered.Headers.Location!.ToString().ShouldStartWith("/account/password/set?link=");
    }

    [Fact]
    public async Task Paying_for_somebodys_account_opens_it_to_nobody()
    {
        using var buyer = site.NewBrowser();
        var sent = await buyer.GetAsync("/account/pay?code=PATRON");
        var token = System.Web.HttpUtility.ParseQueryString(sent.Headers.Location!.Query)["t"]!;
        await sender.SendAsync(Hook, HookSender.Event("o1", "paid", "O-1", RunningSite.Owner, token: token));
        await OrderAsync("O-1", IsDone);
        (await buyer.PageAsync("/account/thanks")).ShouldNotContain("/thanks/enter");
        (await buyer.FillAsync("/account/thanks", "/account/thanks/enter", ("order", token))).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await Store.MemberByNameAsync(RunningSite.Owner, Stop))!.Grants.ShouldContain(g => g.Fact == "plan:patron");
    }

    [Fact]
    public async Task Orders_by_program_and_by_hand_say_what_is_wrong_where_and_are_taken_in_once()
    {
        var draft = new { order = "H-1", id = "h1", email = "hal@quill.example", lines = new[] { new { code = "PATRON" } }, amount = "1200", currency = "JPY" };
        (await MustAsync("POST", "orders", draft)).GetProperty("told").GetBoolean().ShouldBeTrue();
        var again = await MustAsync("POST", "orders", draft);
        (again.GetProperty("told").GetBoolean(), again.GetProperty("order").GetProperty("total").GetString()).ShouldBe((false, "1200"));
        foreach (var (body, field) in new (object, string)[]
        {
            (new { email = "x@y.example", lines = new[] { new { code = "PATRON" } }, amount = "12.5", currency = "JPY" }, "amount"),
            (new { email = "x@y.example", lines = Array.Empty<object>() }, "lines"), (new { lines = new[] { new { code = "PATRON" } } }, "email"),
            (new { email = "x@y.example", lines = new[] { new { code = "PATRON", quantity = 0 } } }, "lines.0.quantity"),
            (new { email = "x@y.example", kind = "order.eaten", lines = new[] { new { code = "PATRON" } } }, "kind"),
            (new { email = "x@y.example", at = "yesterday", lines = new[] { new { code = "PATRON" } } }, "at"),
        })
        {
            var (status, said, _) = await caller.AskAsync("POST", "orders", body);
            status.ShouldBe(HttpStatusCode.UnprocessableEntity, said.ToString());
            said.GetProperty("errors").EnumerateArray().Select(e => e.GetProperty("field").GetString()).ShouldContain(field);
        }

        var bad = await MustAsync("POST", "orders", new { order = "H-2", email = "not an address", lines = new[] { new { code = "PATRON" } } });
        bad.GetProperty("order").GetProperty("waitsFor").GetString().ShouldBe("address");
        var id = bad.GetProperty("order").GetProperty("id").GetString();
        await MustAsync("POST", $"orders/{id}/events", new { kind = "order.mended", email = "mended@quill.example" });
        (await MustAsync("GET", $"orders/{id}")).GetProperty("given").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task Whoever_has_a_plan_is_reminded_once_before_its_end_and_once_after_and_what_is_renewed_is_no_end()
    {
        await MustAsync("PUT", "plans/patron", new { key = "patron", title = "Patron", length = "P30D", grace = "P2D", remind = "P5D" });
        var reminders = site.Services.GetRequiredService<PlanReminders>();
        async Task<Guid> BoughtAsync(string who, string order, int daysAgo)
        {
            await MustAsync("POST", "members", new { email = who, name = "Somebody", password = "long-enough-for-a-test-1" });
            await MustAsync("POST", "orders", new
            {
                order, email = who, at = DateTimeOffset.UtcNow.AddDays(-daysAgo).ToString("O"),
                lines = new[] { new { code = "PATRON" } }
            });
            return (await Store.MemberByNameAsync(who, Stop))!.Id;
        }

        await BoughtAsync("soon@end.example", "R-1", 26);
        await BoughtAsync("later@end.example", "R-2", 20);
        await BoughtAsync("over@end.example", "R-3", 33);
        await BoughtAsync("long-over@end.example", "R-4", 60);
        var renewed = await BoughtAsync("renewed@end.example", "R-5", 26);
        await MustAsync("POST", "orders", new { order = "R-6", email = "renewed@end.example", lines = new[] { new { code = "PATRON" } } });
        // The service's own round may have come between the two orders.
        var before = (await LettersAsync("renewed@end.example")).Count(k => k == "plan-ending");
        var both = await Task.WhenAll(reminders.RemindAsync(Stop), reminders.RemindAsync(Stop));
        // The service's own round may have been there first.
        both.Sum().ShouldBeInRange(0, 2);
        (await reminders.RemindAsync(Stop)).ShouldBe(0);
        (await LettersAsync("soon@end.example")).Count(k => k == "plan-ending").ShouldBe(1);
        (await LettersAsync("over@end.example")).Count(k => k == "plan-lapsed").ShouldBe(1);
        (await LettersAsync("renewed@end.example")).Count(k => k == "plan-ending").ShouldBe(before);

        var ends = (await MustAsync("GET", "ends?days=10")).GetProperty("ends").EnumerateArray().Select(e => e.GetProperty("member").GetGuid()).ToList();
        ends.ShouldContain((await Store.MemberByNameAsync("soon@end.example", Stop))!.Id);
        ends.ShouldNotContain(renewed);
        using var browser = site.NewBrowser();
        await browser.SignInAsync("renewed@end.example", "long-enough-for-a-test-1");
        (await browser.PageAsync("/account/")).ShouldContain("/account/pay?code=PATRON");
    }

    [Fact]
    public async Task A_pass_is_bought_without_an_account_told_in_its_letter_and_ends_with_the_money()
    {
        await MustAsync("POST", "pass-kinds", new { key = "frames", title = "Frames" });
        await MustAsync("PUT", "fulfilment/frames", new { code = "FRAMES", gives = new[] { "pass:frames" }, length = "P30D" });
        await MustAsync("PUT", "gates/dealer-stock", new
        {
            title = "Dealer stock", covers = new[] { "category:dealer-stock" }, audience = "pass:frames or role:dealer", basic = "tools",
        });
        async Task<(string Name, string Password)> ToldAsync()
        {
            var letter = (await Store.TakeMessageAsync(DateTimeOffset.UtcNow.AddHours(1), Stop))!;
            letter.Kind.ShouldBe("pass");
            var text = site.Services.GetRequiredService<Service.Letters.Envelopes>().Open(letter.Body).Text;
            return (Regex.Match(text, "frames-[a-z0-9]{5}").Value, Regex.Match(text, "[a-z]{3,8}(-[a-z]{3,8}){6}").Value);
        }

        async Task<HttpStatusCode> StatusAsync((string Name, string Password) with)
        {
            using var http = new HttpClient
            {
                DefaultRequestHeaders = { { "Authorization", "Basic "
                + Convert.ToBase64String(Encoding.UTF8.GetBytes($"{with.Name}:{with.Password}")) } }
            };
            return (await http.GetAsync(site.Site + "/shop/dealer-stock", Stop)).StatusCode;
        }

        await sender.SendAsync(Hook, HookSender.Event("e1", "paid", "A-1", "lab@pay.example", "FRAMES"));
        var order = await OrderAsync("A-1", IsDone);
        (await Store.MemberByNameAsync("lab@pay.example", Stop)).ShouldBeNull();
        (await LettersAsync("lab@pay.example")).ShouldBe(["pass"]);
        var first = await ToldAsync();
        (await StatusAsync(first)).ShouldBe(HttpStatusCode.OK);
        var desk = site.Services.GetRequiredService<OrderDesk>();
        var there = (await Store.OrderAsync(order.GetProperty("id").GetGuid(), Stop))!;
        (await desk.SendAgainAsync(there, Stop)).ShouldBeFalse("it was told a moment ago");
        await sender.SendAsync(Hook, HookSender.Event("e2", "refunded", "A-1"));
        await OrderAsync("A-1", o => o.GetProperty("standing").GetString() == "refunded");
        (await StatusAsync(first)).ShouldBe(HttpStatusCode.Unauthorized);
        (await LettersAsync("lab@pay.example")).Order().ShouldBe(["order-ended", "pass"]);
    }

    [Fact]
    public async Task A_round_reaches_all_that_wait_and_one_order_that_fails_keeps_no_other_waiting()
    {
        var round = site.Services.GetRequiredService<OrderRound>();
        for (var n = 0; n < 12; n++)
        {
            await MustAsync("POST", "orders", new { order = "W-" + n, email = $"w{n}@wait.example", lines = new[] { new { code = "LATER" } } });
        }

        // A name that no database takes as it is: whoever stored it past us left a row that cannot be taken up.
        var poison = new KeptEvent(Guid.CreateVersion7(), "pay", "poison", DateTimeOffset.UtcNow.AddMinutes(-5), OrderEventState.Waiting, new OrderEvent
        {
            Id = "poison", Order = "P-1", Kind = OrderEventKind.Paid, At = DateTimeOffset.UtcNow, Buyer = new OrderBuyer("p@wait.example"),
            Lines = [new OrderLine("PATRON"), null!],
        });
        await Store.ApplyAsync(new Core.Edit("test", "test", [new OrderEventAdded(poison)]), "test", stop: Stop);
        await MustAsync("PUT", "fulfilment/later", new { code = "LATER", gives = new[] { "role:dealer" } });
        await round.RunDueAsync(Stop);
        (await MustAsync("GET", "orders?handling=waiting")).GetProperty("items").GetArrayLength().ShouldBe(0);
        (await MustAsync("GET", "orders?handling=done&q=W-")).GetProperty("items").GetArrayLength().ShouldBe(12);
    }
}
