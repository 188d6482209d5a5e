using System.Net;
using Shouldly;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Forms by invitation: nobody fills them in but whom staff invited, and whom they invited fills in nothing less.</summary>
public sealed class InvitedToFormTests : JoiningSite
{
    private const string Orla = "orla@vane.example";

    public override async ValueTask InitializeAsync()
    {
        await base.InitializeAsync();
        await SetAsync("open", true);
        await ApplyAsync("""
            fields:
              - {key: paper, label: Which paper?}
            groups:
              - {key: press, title: Press}
              - {key: checked, title: Checked}
            terms:
              - {key: embargo, title: Embargo, audience: nobody, text: Until Friday.}
            forms:
              - key: press
                title: Press
                way: invitation
                terms: [embargo]
                sections:
                  - fields: [{field: paper, required: true}]
                grants:
                  - {grant: "group:press", when: {field: paper, given: true}}
                  - {grant: "group:checked", afterApproval: true}
            """);
        var invited = await Owner.AskAsync("POST", "members/invitations", new { people = new[] { $"Orla <{Orla}>" }, form = "press" });
        invited.Status.ShouldBe(HttpStatusCode.OK, invited.Body.ToString());
    }

    [Fact]
    public async Task Whoever_was_invited_comes_in_by_the_form_with_what_it_gives_and_nobody_else_sees_it()
    {
        using var stranger = new Browser(Running.Site);
        (await stranger.GetAsync("/account/register/press")).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await stranger.GetAsync("/account/register/press?invitation=abc")).StatusCode.ShouldBe(HttpStatusCode.Gone);
        using var orla = new Browser(Running.Site);
        var (address, secret) = await InvitationAsync(orla);
        var page = await orla.PageAsync(address);
        page.ShouldContain($"value=\"{Orla}\"");
        page.ShouldContain("readonly");

        // The way around the form, straight to a password, leads to the form again and sets none.
        (await orla.FillAsync(address, "/account/password/set", ("link", secret), ("name", "Orla"), ("password",
            Password))).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await StatusOfAsync(Orla)).ShouldBe(MemberStatus.Invited);
        (string, string)[] whole = [("invitation", secret), ("name", "Orla Vane"), ("f.paper", "The Lantern"), ("seen.embargo", "1"), ("agree.embargo", "yes"),
            ("password", Password), ("email", "somebody@else.example")];
        foreach (var left in new[] { "f.paper", "agree.embargo", "password" })
        {
            var refused = await orla.FillAsync(address, "/account/register/press", [.. whole.Where(f => f.Item1 != left)]);
            refused.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity, left);
            (await StatusOfAsync(Orla)).ShouldBe(MemberStatus.Invited, left);
        }

        var both = await Task.WhenAll(Enumerable.Range(0, 3).Select(_ => orla.FillAsync(address, "/account/register/press", whole)));
        both.Count(b => b.StatusCode == HttpStatusCode.SeeOther).ShouldBe(1);
        var (member, request) = await RequestOfAsync(Orla);
        (member.Status, member.Name, request.State).ShouldBe((MemberStatus.Active, "Orla Vane", RequestState.Waiting));
        member.Grants.Select(g => g.Fact).ShouldBe(["group:press"]);
        (await Store.MemberByNameAsync("somebody@else.example", Stop)).ShouldBeNull();
        (await Store.AnswersAsync(member.Id, Stop)).ShouldHaveSingleItem().Values.ShouldBe(["The Lantern"]);
        (await Store.ConsentsAsync(member.Id, 5, Stop)).ShouldHaveSingleItem().Where.ShouldBe("press");
        (await orla.GetAsync(address)).StatusCode.ShouldBe(HttpStatusCode.Gone);
    }

    [Fact]
    public async Task A_link_for_another_form_or_taken_back_opens_nothing_and_an_unknown_form_invites_nobody()
    {
        using var orla = new Browser(Running.Site);
        var (address, secret) = await InvitationAsync(orla);
        (await orla.GetAsync("/account/register?invitation=" + secret)).StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await Owner.AskAsync("DELETE", $"members/{Orla}/links")).Status.ShouldBe(HttpStatusCode.NoContent);
        (await orla.GetAsync(address)).StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await Owner.AskAsync("POST", "members/invitations", new { people = new[] { "ada@quill.example" }, form = "gone" })).Status
            .ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await StatusOfAsync("ada@quill.example")).ShouldBeNull();
        await SetAsync("invitation", true);
        (await orla.GetAsync("/account/register")).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await orla.PageAsync("/account/sign-in")).ShouldNotContain("/account/register");
    }

    private async Task<(string Address, string Secret)> InvitationAsync(Browser browser)
    {
        var link = LinkIn(await LetterAsync(Orla, "invitation"));
        using var leads = await browser.GetAsync(link);
        leads.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        return (leads.Headers.Location!.OriginalString, SecretIn(link));
    }
}
