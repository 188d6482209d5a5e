using System.Net;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>One thing for many members: what would happen first, then what does.</summary>
public sealed class BulkApiTests : IAsyncLifetime
{
    private const int Many = 130;
    private static readonly CancellationToken Stop = CancellationToken.None;
    private RunningSite site = null!;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        await Parallel.ForAsync(0, Many, async (n, _) =>
            await site.Client.AddMemberAsync($"bulk{n:d3}@x.example", $"Bulk {n:d3}", null, null, n % 3 == 0 ? ["guide"] : [], [], [], Stop));
    }

    public async ValueTask DisposeAsync() => await site.DisposeAsync();

    [Fact]
    public async Task What_would_happen_is_what_happens_and_again_nothing_does()
    {
        var draft = new BulkDraft("give", null, new MemberFilter("bulk", Holds: "role:guide"), "plan:patron", Until: "2090-01-01", Source: "import:spring");
        var guides = (Many + 2) / 3;
        var would = await LastAsync(site.Client, draft with { DryRun = true });
        (would.Stage, would.Done, would.Changed, would.Refused).ShouldBe(("done", guides, guides, 0));
        would.Whom.Count.ShouldBe(20);
        (await CountAsync("plan:patron")).ShouldBe(0);
        (await LastAsync(site.Client, draft)).Changed.ShouldBe(guides);
        (await CountAsync("plan:patron")).ShouldBe(guides);
        var again = await LastAsync(site.Client, draft);
        (again.Changed, again.Same).ShouldBe((0, guides));
        (await site.Client.HistoryAsync("bulk000@x.example", 10, Stop)).Select(h => h.Action).ShouldContain("grant.give");
        (await LastAsync(site.Client, new BulkDraft("end", null, new MemberFilter(Holds: "plan:patron"), "plan:patron"))).Changed.ShouldBe(guides);
        (await CountAsync("plan:patron")).ShouldBe(0);
    }

    [Fact]
    public async Task Those_who_cannot_are_told_with_the_reason_and_the_others_are_done()
    {
        // The last owner stays, an unknown name is told, who is suspended already stays so.
        await site.Client.SetStatusAsync("bulk001@x.example", "suspended", null, Stop);
        var line = await LastAsync(site.Client, new BulkDraft(
            "suspend", [RunningSite.Owner, "bulk001@x.example", "bulk002@x.example", "nobody@nowhere.example", "bulk002@x.example"], Words: "Call us."));
        (line.Changed, line.Refused).ShouldBe((2, 2));
        line.Refusals.Select(r => r.Member).Order().ShouldBe(["nobody@nowhere.example", RunningSite.Owner]);
        using var api = new Caller(site);
        (await api.AskAsync("GET", "members/bulk002@x.example")).Body.GetProperty("cause").GetProperty("words").GetString().ShouldBe("Call us.");
        (await api.AskAsync("GET", "members/" + RunningSite.Owner)).Body.GetProperty("status").GetString().ShouldBe("active");
    }

    [Fact]
    public async Task Support_touches_no_staff_by_the_hundred_either()
    {
        await site.Client.AddMemberAsync("helps@x.example", "Helps", null, "long-enough-mill-1", ["support"], [], [], Stop);
        using var nobody = new SentinelClient(new Uri(site.Admin), null);
        var token = (await nobody.AddTokenAsync("t", ["read", "people"], null, "helps@x.example", "long-enough-mill-1", Stop)).Token!.Reveal();
        using var support = new SentinelClient(new Uri(site.Admin), token);
        var line = await LastAsync(support, new BulkDraft("sign-out", null, new MemberFilter()));
        line.Refused.ShouldBe(2);
        (await Should.ThrowAsync<SentinelException>(() => LastAsync(support, new BulkDraft("give", null, new MemberFilter(), "role:editor"))))
            .Code.ShouldBe("staff-role");
    }

    [Fact]
    public async Task Who_has_not_come_and_who_has_no_password_is_invited_once_a_day_however_often_it_is_begun()
    {
        using var api = new Caller(site);
        (await api.AskAsync("POST", "members/invitations", new { people = new[] { "bulk900@x.example" } })).Status.ShouldBe(HttpStatusCode.OK);
        foreach (var (email, password) in new[]
        {
            ("bulk901@x.example", (string?)null), ("bulk902@x.example", "long-enough-mill-1"), ("bulk903@x.example", null),
        })
        {
            await site.Client.AddMemberAsync(email, "Bulk", null, password, [], [], [], Stop);
        }

        await site.Client.SetStatusAsync("bulk903@x.example", "suspended", null, Stop);
        var asked = new BulkDraft("invite", null, new MemberFilter("bulk90"), Words: "The dome opens on Friday.");
        var would = await LastAsync(site.Client, asked with { DryRun = true });
        (would.Changed, would.Same, would.Refused).ShouldBe((1, 2, 1), "the first was written to a moment ago, the third is in, the last is kept out");
        var runs = await Task.WhenAll(LastAsync(site.Client, asked), LastAsync(site.Client, asked));
        runs.Sum(r => r.Changed).ShouldBe(1);
        var letters = (await api.AskAsync("GET", "letters?to=bulk901@x.example")).Body.GetProperty("items");
        letters.GetArrayLength().ShouldBe(1);
        (await LastAsync(site.Client, asked)).Changed.ShouldBe(0);
        var wordy = await Should.ThrowAsync<SentinelException>(() => LastAsync(site.Client, asked with { Words = new string('a', 20_000) }));
        wordy.Faults[0].Field.ShouldBe("words");
    }

    [Fact]
    public async Task A_letter_goes_to_each_with_their_name()
    {
        var line = await LastAsync(site.Client, new BulkDraft(
            "tell", null, new MemberFilter("bulk00"), Subject: "Spring nights", Text: "Dear {name}, the dome opens on Friday."));
        line.Changed.ShouldBe(10);
        using var api = new Caller(site);
        var letters = (await api.AskAsync("GET", "letters?to=bulk007@x.example")).Body.GetProperty("items");
        letters[0].GetProperty("subject").GetString().ShouldBe("Spring nights");
    }

    [Theory]
    [InlineData("dance", null, null, null, "do")]
    [InlineData("give", "role:dealr", null, null, "fact")]
    [InlineData("give", "plan:patron", "2026-13-40", null, "until")]
    [InlineData("tell", null, null, null, "subject")]
    [InlineData("give", "plan:patron", null, "sleeping", "status")]
    public async Task What_cannot_be_done_for_anybody_is_refused_at_once(string act, string? fact, string? until, string? status, string field)
    {
        using var api = new Caller(site);
        var (code, problem, _) = await api.AskAsync("POST", "members/bulk", new { @do = act, fact, until, filter = new { status } });
        code.ShouldBe(HttpStatusCode.UnprocessableEntity);
        problem.GetProperty("errors").EnumerateArray().Select(e => e.GetProperty("field").GetString()).ShouldContain(field);
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "bulk-whom", "POST", "members/bulk", new { @do = "sign-out" });
    }

    private static async Task<MembersChangeLine> LastAsync(SentinelClient client, BulkDraft draft)
    {
        MembersChangeLine? last = null;
        await foreach (var line in client.BulkAsync(draft, Stop))
        {
            last = line;
        }

        return last!;
    }

    private async Task<int> CountAsync(string holds)
    {
        var count = 0;
        await foreach (var _ in site.Client.AllAsync<MemberView>(SentinelClient.MembersPath(new MemberFilter(Holds: holds)), 1000, Stop))
        {
            count++;
        }

        return count;
    }
}
