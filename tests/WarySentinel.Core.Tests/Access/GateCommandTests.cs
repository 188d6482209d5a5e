using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

public sealed class GateCommandTests
{
    private static readonly GateDraft Good = new() { Title = "Filters", Covers = ["category:filters"], Audience = "role:dealer" };

    private static GateSurroundings Around(Policy policy) => new(new KnownKeys(policy, _ => false), Reserved, [Role("owner")], Now);

    private static Outcome<Edit<Gate>> Add(GateDraft draft, Policy? policy = null)
    {
        policy ??= Policy(Shop());
        return GateCommands.Add(policy, draft, Around(policy));
    }

    [Fact]
    public void A_good_draft_becomes_a_gate_with_its_usual_values()
    {
        var gate = Add(Good).Value.Value;
        (gate.Key, gate.Acts, gate.Presence, gate.Answer, gate.UnlockFor)
            .ShouldBe(("filters", Acts.Usual, Presence.Listed, Answer.Auto, TimeSpan.FromDays(14)));
    }

    [Fact]
    public void Every_fault_is_told_at_once()
    {
        var problem = Add(new GateDraft
        {
            Title = "", Covers = ["category:filtres"], Audience = "role:dealr", Presence = "secret", UnlockFor = "14 days", From = "2026-05-03",
            Until = "2026-05-02"
        }).Problem!;
        problem.Faults.Select(f => f.Field).ShouldBe(["title", "key", "covers", "audience", "presence", "until", "unlockFor"], ignoreOrder: true);
        problem.Faults.First(f => f.Field == "covers").Message.ToString().ShouldContain("category:filters");
    }

    [Theory]
    [InlineData("path:/account/**")]
    [InlineData("path:/Account/sign-in")]
    [InlineData("path:/sentinel")]
    public void A_gate_cannot_close_the_sign_in_pages(string covers) => Add(Good with { Covers = [covers] }).Problem!.Code.ShouldBe("closes-sign-in");

    [Fact]
    public void A_password_answer_needs_an_audience_that_asks_for_one() =>
        Add(Good with { Answer = "password" }).Problem!.Code.ShouldBe("answer-needs-password");

    [Fact]
    public void A_redirect_leads_only_to_this_site() =>
        Add(Good with { Answer = "redirect", RedirectTo = "https://evil.example" }).Problem!.Code.ShouldBe("redirect-form");

    [Fact]
    public void An_exemption_has_no_audience() => Add(Good with { Kind = "exemption" }).Problem!.Code.ShouldBe("exemption-audience");

    [Fact]
    public void The_last_owner_is_not_locked_out_where_staff_do_not_pass()
    {
        var strict = Core.Access.Policy.Build(Shop(), [], [new(FactKind.Role, "dealer", "Dealers")], new SiteSettings { StaffPasses = false }).Value;
        var whole = Good with { Covers = ["site"] };
        Add(whole, strict).Problem!.Code.ShouldBe("locks-out-owner");
        Add(whole with { Audience = "role:dealer or role:owner" }, strict).IsGood.ShouldBeTrue();
        Add(whole with { Audience = "role:dealer or password" }, strict).IsGood.ShouldBeTrue();
        Add(whole).IsGood.ShouldBeTrue();
    }

    [Fact]
    public void Turning_the_staff_privilege_off_does_not_lock_owners_out_either()
    {
        var policy = Policy(Shop(), Gate("all", "site", "role:dealer"));
        SettingsCommands.Set(policy, policy.Settings with { StaffPasses = false }, null, Around(policy)).Problem!.Code.ShouldBe("locks-out-owner");
    }

    [Fact]
    public void An_old_version_is_not_saved_over()
    {
        var policy = Policy(Shop(), Gate("filters", "category:filters") with { Version = 3 });
        GateCommands.Set(policy, "filters", Good, 2, Around(policy)).Problem!.Code.ShouldBe("stale");
        GateCommands.Set(policy, "filters", Good, 3, Around(policy)).Value.Value.Version.ShouldBe(4);
        GateCommands.Remove(policy, "filters", 2, Around(policy)).Problem!.Code.ShouldBe("stale");
        GateCommands.Set(policy, "filtres", Good, 3, Around(policy)).Problem!.Detail.ToString().ShouldContain("“filters”");
    }

    [Fact]
    public void A_draft_of_a_gate_reads_back_as_that_gate()
    {
        var policy = Policy(Shop());
        var gate = Add(Good with
        {
            Presence = "hidden",
            Answer = "message",
            Message = "Ask us.",
            Acts = ["price", "buy"],
            From = "2026-05-03T18:00:00Z",
            UnlockFor = "PT8H",
            Reach = "item"
        }).Value.Value;
        var again = GateDraft.Of(gate).Read(policy, Around(policy).Known, Reserved).Value;
        GateDraft.Of(again).ShouldBeEquivalentTo(GateDraft.Of(gate));
    }

    [Fact]
    public void A_gate_reads_as_a_sentence()
    {
        var policy = Policy(Shop());
        GateSentence.Of(Gate("d", "category:dealer", "role:dealer or role:guide", hidden: true), policy).ToString().ShouldBe(
            "Title of category:dealer and all in it: only dealers or guides may open it, buy it or see its price. Others don’t see it listed; at its "
                + "address, they are asked to sign in.");
        GateSentence.Of(Exemption("x", "product:moss", itemOnly: true), policy).ToString()
            .ShouldBe("Title of product:moss, itself alone: free of broader gates.");
        GateSentence.Of(Gate("p", "path:/members/**", "password"), policy).ToString()
            .ShouldStartWith("all beneath /members: only holders of the shared password");
        GateSentence.Of(Gate("p", "path:/members,path:/members/**,path:/a/*,path:/x?id=1,path:/b/**", "signed-in"), policy).ToString()
            .ShouldStartWith("/members and all beneath it, every address like /a/*, the address /x?id=1 and all beneath /b: only");
        GateSentence.Of(Gate("p", "path:/**", "signed-in"), policy).ToString().ShouldStartWith("every address like /**: only");
    }

    [Fact]
    public void A_shared_password_needs_a_gate_that_asks_for_one()
    {
        var policy = Policy(Shop(), Gate("v", "category:filters", "password"), Gate("d", "category:dealer"));
        SharedPasswordCommands.Check(policy, new SharedPasswordTerms("v", "Friends"), "long-enough", null).ShouldBeNull();
        SharedPasswordCommands.Check(policy, new SharedPasswordTerms("d", "Friends"), "long-enough", null)!.Code.ShouldBe("gate-takes-no-password");
        SharedPasswordCommands.Check(policy, new SharedPasswordTerms("v", " "), "long-enough", null)!.Code.ShouldBe("label-length");
        SharedPasswordCommands.Check(policy, new SharedPasswordTerms("v", "Friends"), "short", null)!.Code.ShouldBe("shared-password-length");
        SharedPasswordCommands.Check(policy, new SharedPasswordTerms("none", "Friends"), "long-enough", null)!.Kind.ShouldBe(ProblemKind.NotFound);
    }

    [Fact]
    public void The_last_active_owner_stays_owner_and_active()
    {
        var policy = Policy(Shop());
        var owner = new Member(Guid.NewGuid(), "o@x.example", "O", null, "hash", MemberStatus.Active, [new Grant(FactKind.Role, "owner")], Now);
        // Whether somebody else is one is looked at where it is stored: two owners may leave at once.
        IEnumerable<Change> Of<T>(Outcome<Edit<T>> outcome) => outcome.Value.ToStore.Changes.OfType<OwnerRemains>();
        Of(MemberCommands.SetRoles(policy, owner, ["dealer"], null, Now)).ShouldHaveSingleItem().ShouldBe(new OwnerRemains(owner.Id));
        Of(AccountCommands.SetStatus(owner, MemberStatus.Suspended, null, "by", Now)).ShouldHaveSingleItem();
        Of(GrantCommands.End(owner with { Grants = [owner.Grants[0] with { Id = owner.Id }] }, owner.Id, Now)).ShouldHaveSingleItem();
        Of(MemberCommands.SetRoles(policy, owner, ["dealer", "owner"], null, Now)).ShouldBeEmpty();
        Of(AccountCommands.SetStatus(owner with { Status = MemberStatus.Suspended }, MemberStatus.Active, null, "by", Now)).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("Nell@Orchard.Example", "nell@orchard.example")]
    [InlineData(" a@b.example ", "a@b.example")]
    [InlineData("nobody", null)]
    [InlineData("a@b@c.example", null)]
    [InlineData("a@localhost", null)]
    [InlineData("a b@c.example", null)]
    [InlineData("@c.example", null)]
    public void Addresses_of_mail_are_compared_in_one_form(string typed, string? expected) => EmailAddress.Normalise(typed).ShouldBe(expected);

    [Fact]
    public void A_role_in_use_is_not_removed()
    {
        var policy = Policy(Shop(), Gate("g", "product:moss", "role:dealer"));
        FactCommands.Remove(policy, FactKind.Role, "dealer", 0).Problem!.Code.ShouldBe("standing-in-gate");
        FactCommands.Remove(policy, FactKind.Role, "guide", 2).Problem!.Code.ShouldBe("standing-held");
        FactCommands.Remove(policy, FactKind.Role, "guide", 0).IsGood.ShouldBeTrue();
        FactCommands.Add(policy, FactKind.Role, new FactDraft("owner", "Owners"), null).Problem!.Code.ShouldBe("standing-exists");
    }
}
