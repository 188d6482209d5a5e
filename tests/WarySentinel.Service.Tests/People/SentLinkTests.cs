using System.Net;
using Shouldly;
using WarySentinel.Contract.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Links of all, over real HTTP: what was sent to whom, whether it was used, and how it is taken back.</summary>
public sealed class SentLinkTests : IAsyncLifetime
{
    private RunningSite site = null!;
    private Caller caller = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        caller = new Caller(site);
    }

    public async ValueTask DisposeAsync()
    {
        caller.Dispose();
        await site.DisposeAsync();
    }

    private async Task<List<SentLinkView>> ListAsync(string? words = null, string? state = null, string? purpose = null)
    {
        var found = new List<SentLinkView>();
        await foreach (var one in site.Client.SentLinksAsync(words, state, purpose, 1000, Stop))
        {
            found.Add(one);
        }

        return found;
    }

    [Fact]
    public async Task Each_stands_with_how_it_stands_and_one_is_taken_back_without_the_others()
    {
        for (var n = 0; n < 7; n++)
        {
            (await caller.AskAsync("POST", "members/invitations", new { people = new[] { $"who{n}@sent.example" } })).Status.ShouldBe(HttpStatusCode.OK);
        }

        var all = await ListAsync("sent.example");
        all.Select(l => l.Email).ShouldBe(Enumerable.Range(0, 7).Reverse().Select(n => $"who{n}@sent.example"), "the newest first");
        all.ShouldAllBe(l => l.Purpose == "invitation" && l.Way == "link" && l.State == "open" && l.Member != null);
        var (_, first, _) = await caller.AskAsync("GET", "links?limit=3&q=sent.example");
        first.GetProperty("items").GetArrayLength().ShouldBe(3);
        first.GetProperty("next").GetString().ShouldNotBeNull();
        first.ToString().ShouldNotContain("digest", Case.Insensitive);

        await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => site.Client.WithdrawLinkAsync(all[2].Id, Stop)));
        (await ListAsync(state: "withdrawn")).ShouldHaveSingleItem().Email.ShouldBe("who4@sent.example");
        (await ListAsync("SENT.example", "open", "invitation")).Count.ShouldBe(6);
        (await ListAsync(purpose: "sign-in")).ShouldBeEmpty();
        (await caller.AskAsync("GET", "links?state=odd")).Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await caller.AskAsync("DELETE", $"links/{Guid.NewGuid()}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task What_went_to_an_owner_is_an_owners_to_take_back()
    {
        await site.Client.AddMemberAsync("ed@sent.example", "Ed", null, "an-editor-of-words", ["editor"], [], [], Stop);
        (await caller.AskAsync("POST", "members/invitations", new { people = new[] { "boss@sent.example" }, roles = new[] { "owner" } })).Status
            .ShouldBe(HttpStatusCode.OK);
        var sent = (await ListAsync("boss@sent.example")).ShouldHaveSingleItem();
        var (_, made, _) = await caller.AskAsync("POST", "tokens", new
        {
            label = "ed", scopes = new[] { "read", "people" }, signIn = new { name = "ed@sent.example", password = "an-editor-of-words" },
        });
        using var editor = new Caller(site, made.GetProperty("token").GetString());
        (await editor.AskAsync("DELETE", $"links/{sent.Id}")).Status.ShouldBe(HttpStatusCode.Forbidden);
        (await ListAsync("boss@sent.example", "open")).Count.ShouldBe(1);
    }
}
