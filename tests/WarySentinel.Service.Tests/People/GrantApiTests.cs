using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

public sealed class GrantApiTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Saying_the_same_again_changes_nothing_also_when_it_has_ended()
    {
        // A site of its own: on the shared one others move the policy meanwhile.
        await using var own = await RunningSite.StartAsync();
        var who = await AddAsync(own);
        using var caller = new Caller(own);
        var revision = (await own.Client.StatusAsync(Stop)).Revision;
        var order = new { fact = "plan:patron", until = "2027-05-03", source = "order:4711" };
        var (status, given, _) = await caller.AskAsync("POST", $"members/{who}/grants", order);
        (status, given.GetProperty("changed").GetBoolean()).ShouldBe((HttpStatusCode.Created, true));
        given.GetProperty("grant").GetProperty("until").GetDateTimeOffset()
            .ShouldBe(new DateTimeOffset(2027, 5, 4, 0, 0, 0, TimeSpan.Zero), "until the end of that day");
        var id = given.GetProperty("grant").GetProperty("id").GetGuid();
        var again = await caller.AskAsync("POST", $"members/{who}/grants", order);
        (again.Status, again.Body.GetProperty("changed").GetBoolean(), again.Body.GetProperty("grant").GetProperty("id").GetGuid())
            .ShouldBe((HttpStatusCode.OK, false, id));
        (await own.Client.EndGrantAsync(who, id, Stop)).Changed.ShouldBeTrue();
        (await own.Client.EndGrantAsync(who, id, Stop)).Changed.ShouldBeFalse();
        (await caller.AskAsync("POST", $"members/{who}/grants", order)).Body.GetProperty("changed").GetBoolean().ShouldBeFalse();
        (await own.Client.MemberAsync(who, Stop)).Value.Grants.ShouldHaveSingleItem().InForce.ShouldBeFalse();
        (await own.Client.StatusAsync(Stop)).Revision.ShouldBe(revision, "people do not move the policy");
    }

    [Fact]
    public async Task What_ended_by_hand_is_given_again_and_dates_are_set_for_themselves()
    {
        var who = await AddAsync();
        var first = await site.Client.GiveAsync(who, "role:dealer", null, null, null, Stop);
        (await site.Client.GiveAsync(who, "role:dealer", null, null, null, Stop)).Changed.ShouldBeFalse();
        using var caller = new Caller(site);
        await caller.RefusedAsync(HttpStatusCode.Conflict, "grant-exists", "POST", $"members/{who}/grants", new { fact = "role:dealer", until = "2027-01-01" });
        var set = await site.Client.SetGrantAsync(who, first.Grant.Id, null, "2027-01-01", Stop);
        (set.Grant.Id, set.Grant.Until!.Value.Year).ShouldBe((first.Grant.Id, 2027));
        await site.Client.EndGrantAsync(who, first.Grant.Id, Stop);
        (await site.Client.MemberAsync(who, Stop)).Value.Roles.ShouldBeEmpty();
        var again = await site.Client.GiveAsync(who, "role:dealer", null, null, null, Stop);
        (again.Changed, again.Grant.Id, again.Grant.InForce).ShouldBe((true, first.Grant.Id, true));
        var (history, _) = (await caller.AskAsync("GET", "history?action=grant.&subject=" + who) is var (_, body, _) ? body : default, 0);
        history.GetProperty("items").EnumerateArray().Select(h => h.GetProperty("action").GetString())
            .ShouldBe(["grant.give", "grant.end", "grant.set", "grant.give"]);
    }

    [Theory]
    [InlineData("""{"fact":"role:deeler"}""", HttpStatusCode.UnprocessableEntity, "standing-unknown-near", "fact")]
    [InlineData("""{"fact":"pass:x"}""", HttpStatusCode.UnprocessableEntity, "fact-form", "fact")]
    [InlineData("""{"fact":"dealer"}""", HttpStatusCode.UnprocessableEntity, "fact-form", "fact")]
    [InlineData("""{"fact":null}""", HttpStatusCode.UnprocessableEntity, "fact-form", "fact")]
    [InlineData("""{"fact":"bought:product:no-such-thing"}""", HttpStatusCode.UnprocessableEntity, "standing-unknown", "fact")]
    [InlineData("""{"fact":"role:dealer","source":"order:"}""", HttpStatusCode.UnprocessableEntity, "source-form", "source")]
    [InlineData("""{"fact":"role:dealer","source":"hand:me"}""", HttpStatusCode.UnprocessableEntity, "source-form", "source")]
    [InlineData("""{"fact":"role:dealer","source":"nonsense:1"}""", HttpStatusCode.UnprocessableEntity, "source-form", "source")]
    [InlineData("""{"fact":"role:dealer","until":"tomorrow"}""", HttpStatusCode.UnprocessableEntity, "time-form", "until")]
    [InlineData("""{"fact":"role:dealer","from":"2027-02-01","until":"2027-01-01"}""", HttpStatusCode.UnprocessableEntity, "dates-order", "until")]
    public async Task What_cannot_be_given_is_refused_where_it_stands(string draft, HttpStatusCode status, string code, string field)
    {
        var who = await AddAsync();
        using var caller = new Caller(site);
        var problem = await caller.RefusedAsync(status, code, "POST", $"members/{who}/grants",
            System.Text.Json.JsonSerializer.Deserialize<System.Text.Json.JsonElement>(draft));
        problem.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe(field);
        (await site.Client.MemberAsync(who, Stop)).Value.Grants.ShouldBeEmpty();
    }

    [Fact]
    public async Task Who_is_not_there_or_may_not_is_told()
    {
        using var caller = new Caller(site);
        await caller.RefusedAsync(HttpStatusCode.NotFound, "member-unknown-name", "POST", "members/nobody@x.example/grants", new { fact = "role:dealer" });
        var who = await AddAsync();
        await caller.RefusedAsync(HttpStatusCode.NotFound, "grant-unknown", "DELETE", $"members/{who}/grants/{Guid.NewGuid()}");
        var owner = (await site.Client.MemberAsync(RunningSite.Owner, Stop)).Value;
        await caller.RefusedAsync(HttpStatusCode.Conflict, "last-owner", "DELETE", $"members/{RunningSite.Owner}/grants/{owner.Grants[0].Id}");
        await caller.RefusedAsync(HttpStatusCode.Conflict, "last-owner", "PUT", $"members/{RunningSite.Owner}/grants/{owner.Grants[0].Id}",
            new { until = "2099-01-01" });
    }

    [Fact]
    public async Task Thirty_sources_at_once_are_thirty_grants_and_one_is_one()
    {
        var who = await AddAsync();
        await Task.WhenAll(Enumerable.Range(0, 8).Select(n => site.Client.GiveAsync(who, "group:institutions", null, null, "order:" + n, Stop)));
        await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => site.Client.GiveAsync(who, "group:institutions", null, null, "order:same", Stop)));
        (await site.Client.MemberAsync(who, Stop)).Value.Grants.Count.ShouldBe(9);
    }

    [Fact]
    public async Task Letters_are_listed_by_state_sent_again_and_dropped()
    {
        var store = site.Services.GetRequiredService<Store>();
        var letter = new OutgoingMessage(Guid.NewGuid(), "late@x.example", "Subject", "sealed", DateTimeOffset.UtcNow, "told", Urgency.Soon);
        await store.ApplyAsync(new Edit("test", "test", [new MessageQueued(letter)]), "test", stop: Stop);
        await store.MessageFailedAsync(letter.AsTaken(), "550 no such mailbox", null, Stop);
        var given = (await site.Client.LettersAsync("given-up", null, null, Stop)).First(l => l.Id == letter.Id);
        (given.State, given.Fault).ShouldBe(("given-up", "550 no such mailbox"));
        await site.Client.ResendLetterAsync(letter.Id, Stop);
        (await site.Client.LettersAsync(null, letter.To, letter.Kind, Stop)).ShouldContain(l => l.Id == letter.Id);
        (await site.Client.LettersAsync(null, null, "order,order-gift", Stop)).ShouldNotContain(l => l.Id == letter.Id);
        (await site.Client.LettersAsync("waiting", null, null, Stop)).ShouldContain(l => l.Id == letter.Id && l.Tries == 0);
        await site.Client.DropLetterAsync(letter.Id, Stop);
        (await site.Client.LettersAsync(null, null, null, Stop)).ShouldNotContain(l => l.Id == letter.Id);
        using var caller = new Caller(site);
        await caller.RefusedAsync(HttpStatusCode.NotFound, "letter-unknown", "POST", $"letters/{letter.Id}/resend");
        await caller.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "GET", "letters?state=lost");
        await caller.RefusedAsync(HttpStatusCode.UnprocessableEntity, "not-one-of", "GET", "letters?kind=told,postcard");
    }

    private Task<string> AddAsync() => AddAsync(site);

    private static async Task<string> AddAsync(RunningSite to)
    {
        var email = $"g{Guid.NewGuid():N}@x.example";
        await to.Client.AddMemberAsync(email, "Some One", null, null, [], [], [], Stop);
        return email;
    }
}
