using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Passwords;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

public sealed class SharedPasswordTests
{
    private static readonly Visitor Member = new() { IsSignedIn = true };
    private static readonly SharedPassword Given = new(Guid.NewGuid(), "vault", "Friends", "digest", "hash", Now.AddDays(-40));

    [Fact]
    public void It_is_over_with_its_last_use_its_end_or_its_withdrawal()
    {
        Given.IsInForce(Now).ShouldBeTrue();
        (Given with { MostUses = 2, Uses = 1 }).IsInForce(Now).ShouldBeTrue();
        (Given with { MostUses = 2, Uses = 2 }).IsInForce(Now).ShouldBeFalse();
        (Given with { Until = Now }).IsInForce(Now).ShouldBeFalse();
        (Given with { From = Now.AddSeconds(1) }).IsInForce(Now).ShouldBeFalse();
        (Given with { WithdrawnAt = Now }).IsInForce(Now).ShouldBeFalse();
    }

    [Fact]
    public void Only_those_whom_it_is_for_are_asked_for_it()
    {
        var policy = With("password", Given with { Asked = AudienceParser.Parse("guest").Value });
        var gate = policy.FindGate("vault")!;
        policy.AnswerOf(gate, Visitor.Guest, Now).ShouldBe(Answer.Password);
        policy.AnswerOf(gate, Member, Now).ShouldBe(Answer.Message);
        policy.Decide(Member, Id("category:filters"), Acts.Open, Now).Value.Refusal!.Answer.ShouldBe(Answer.Message);
    }

    [Fact]
    public void A_gate_whose_passwords_are_all_over_asks_for_none()
    {
        var policy = With("password or role:dealer", Given with { Until = Now.AddDays(-1) });
        policy.AnswerOf(policy.FindGate("vault")!, Visitor.Guest, Now).ShouldBe(Answer.SignIn);
        With("password").AnswerOf(policy.FindGate("vault")!, Visitor.Guest, Now).ShouldBe(Answer.Password);
    }

    [Fact]
    public void Rotation_is_due_when_one_is_old_enough_and_only_once()
    {
        var gate = Gate("vault", "category:filters", "password") with { Rotation = new Rotation(TimeSpan.FromDays(30), TimeSpan.FromDays(2), ["a@x.example"]) };
        SharedPasswordCommands.Due(gate, [Given], Now).ShouldHaveSingleItem();
        SharedPasswordCommands.Due(gate, [Given with { CreatedAt = Now.AddDays(-29) }], Now).ShouldBeEmpty();
        SharedPasswordCommands.Due(gate, [Given, Given with { Id = Guid.NewGuid(), Replaces = Given.Id, CreatedAt = Now }], Now).ShouldBeEmpty();
        SharedPasswordCommands.Due(gate with { Rotation = null }, [Given], Now).ShouldBeEmpty();
        SharedPasswordCommands.Due(gate, [Given with { WithdrawnAt = Now }], Now).ShouldBeEmpty();
    }

    [Fact]
    public void Both_work_during_the_overlap_and_never_longer_than_the_old_one_did()
    {
        var fresh = Given with { Id = Guid.NewGuid(), Replaces = Given.Id, CreatedAt = Now };
        var letter = new MessageQueued(new OutgoingMessage(Guid.NewGuid(), "a@x.example", "s", "sealed", Now, "told", Urgency.Soon));
        var edit = SharedPasswordCommands.Rotate(Given, fresh, TimeSpan.FromDays(2), [letter], Now).Value.ToStore;
        edit.Changes.OfType<SharedPasswordPut>().First().Password.Until.ShouldBe(Now.AddDays(2));
        edit.Changes.ShouldContain(letter);
        var ending = SharedPasswordCommands.Rotate(Given with { Until = Now.AddHours(1) }, fresh, TimeSpan.FromDays(2), [], Now).Value.ToStore;
        ending.Changes.OfType<SharedPasswordPut>().First().Password.Until.ShouldBe(Now.AddHours(1));
        SharedPasswordCommands.Rotate(Given with { WithdrawnAt = Now }, fresh, TimeSpan.Zero, [], Now).Problem!.Code.ShouldBe("shared-password-over");
        SharedPasswordCommands.Rotate(null, fresh, TimeSpan.Zero, [], Now).Problem!.Kind.ShouldBe(ProblemKind.NotFound);
    }

    [Theory]
    [InlineData("P30D", "P2D", "a@x.example", null)]
    [InlineData("PT5H", "P2D", "a@x.example", "rotation.every")]
    [InlineData("P30D", "soon", "a@x.example", "rotation.overlap")]
    [InlineData("P3D", "P9D", "a@x.example", "rotation.overlap")]
    [InlineData("P30D", "P2D", "nobody", "rotation.tell")]
    [InlineData("P30D", "P2D", null, "rotation.tell")]
    public void A_rotation_is_checked_field_by_field(string every, string overlap, string? tell, string? fault)
    {
        var draft = new GateDraft
        {
            Title = "V", Covers = ["category:filters"], Audience = "password",
            Rotation = new RotationDraft(every, overlap, tell is null ? null : [tell])
        };
        var read = draft.Read(Policy(Shop()), new KnownKeys(Policy(Shop()), _ => false), Reserved);
        (read.Problem?.Faults[0].Field).ShouldBe(fault);
        if (fault is null)
        {
            GateDraft.Of(read.Value).Rotation!.Every.ShouldBe("P30D");
            (draft with { Audience = "role:dealer" })
                .Read(Policy(Shop()), new KnownKeys(Policy(Shop()), _ => false), Reserved).Problem!.Code.ShouldBe("rotation-needs-password");
        }
    }

    [Fact]
    public void Who_is_asked_is_an_audience_with_its_faults_beside_it()
    {
        var problem = SharedPasswordCommands.Check(With("password"), new SharedPasswordTerms("vault", "L", Asked: "role:"), "long-enough", null)!;
        problem.Faults[0].Field.ShouldBe("asked");
        SharedPasswordCommands.Check(With("password"), new SharedPasswordTerms("vault", "L", MostUses: 0), "long-enough",
            null)!.Faults[0].Field.ShouldBe("mostUses");
    }

    [Fact]
    public void The_words_of_a_gate_come_before_those_of_the_site()
    {
        new PromptWords(Heading: "Vault").Or(new PromptWords("Site", "Words")).ShouldBe(new PromptWords("Vault", "Words"));
        PromptWords.Tidy(new PromptWords(" ", null, "")).ShouldBeNull();
        new PromptWords(Button: new string('x', 41)).Wrong().ShouldBe("button");
    }

    private static Policy With(string audience, params SharedPassword[] passwords)
    {
        var policy = Policy(Shop(), Gate("vault", "category:filters", audience));
        return policy.After(new Edit("x", "x", [.. passwords.Select(p => new SharedPasswordPut(p))]));
    }
}
