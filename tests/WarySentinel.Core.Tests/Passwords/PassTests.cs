using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Passwords;

public sealed class PassTests
{
    private static readonly Policy Site = Core.Access.Policy.Build(
        [Item("category:filters")], [], [new FactDefinition(FactKind.Pass, "frames", "Frames")], new SiteSettings { TimeZone = "Europe/Lisbon" }).Value;

    private static readonly FreshPass Fresh = new(Guid.NewGuid(), "q7mkt", "digest");

    private static Outcome<Edit<Pass>> Add(PassTerms terms) => PassCommands.Add(Site, terms, Fresh, Now);

    private static Pass Made(PassTerms? terms = null) => Add(terms ?? new PassTerms { Kind = "frames", Holder = "Brookfield School" }).Value.Value;

    [Fact]
    public void It_is_called_after_its_kind_unless_a_name_is_given()
    {
        Made().Name.ShouldBe("frames-q7mkt");
        Made(new PassTerms { Kind = "frames", Holder = "A", Name = " Brook.Field " }).Name.ShouldBe("brook.field");
    }

    [Theory]
    [InlineData("", "A", null, null, null, "kind")]
    [InlineData("frame", "A", null, null, null, "kind")]
    [InlineData("frames", " ", null, null, null, "holder")]
    [InlineData("frames", "A\u202e", null, null, null, "holder")]
    [InlineData("frames", "A", "with:colon", null, null, "name")]
    [InlineData("frames", "A", "a@b.example", null, null, "name")]
    [InlineData("frames", "A", null, "yesterday", null, "until")]
    [InlineData("frames", "A", null, null, 0, "mostUses")]
    public void What_is_wrong_is_said_beside_its_field(string kind, string holder, string? name, string? until, int? uses, string field) =>
        Add(new PassTerms { Kind = kind, Holder = holder, Name = name, Until = until, MostUses = uses }).Problem!.Faults.ShouldContain(f => f.Field == field);

    [Fact]
    public void A_day_is_the_last_that_counts_in_the_zone_of_the_site()
    {
        var pass = Made(new PassTerms { Kind = "frames", Holder = "A", From = "2027-03-27", Until = "2027-03-28" });
        pass.From.ShouldBe(new DateTimeOffset(2027, 3, 27, 0, 0, 0, TimeSpan.Zero));
        pass.Until.ShouldBe(new DateTimeOffset(2027, 3, 28, 23, 0, 0, TimeSpan.Zero), "the clocks went forward that day");
        pass.StandingAt(pass.From!.Value.AddTicks(-1)).ShouldBe("later");
        pass.StandingAt(pass.Until!.Value.AddTicks(-1)).ShouldBe("in-force");
        pass.StandingAt(pass.Until.Value).ShouldBe("over");
        (pass with { From = null, Until = null, MostUses = 2, Uses = 2 }).StandingAt(Now).ShouldBe("used-up");
        (pass with { WithdrawnAt = Now }).StandingAt(Now).ShouldBe("withdrawn");
    }

    [Fact]
    public void The_password_before_works_for_the_overlap_and_not_a_moment_longer()
    {
        var after = PassCommands.Rotate(Made(), "next", TimeSpan.FromDays(2), Now).Value;
        var pass = after.Value;
        pass.IsProvedBy("next", Now.AddDays(9)).ShouldBeTrue();
        pass.IsProvedBy("digest", Now.AddDays(2).AddTicks(-1)).ShouldBeTrue();
        pass.IsProvedBy("digest", Now.AddDays(2)).ShouldBeFalse();
        pass.IsProvedBy("other", Now).ShouldBeFalse();
        after.ToStore.Changes.OfType<PassSessionsCut>().Single().At.ShouldBe(Now.AddDays(2));
        PassCommands.Rotate(Made(), "next", TimeSpan.Zero, Now).Value.Value.IsProvedBy("digest", Now).ShouldBeFalse();
        PassCommands.Rotate(Made() with { WithdrawnAt = Now }, "next", TimeSpan.Zero, Now).Problem!.Code.ShouldBe("pass-withdrawn");
        PassCommands.Rotate(Made() with { Until = Now }, "next", TimeSpan.Zero, Now).Problem!.Code.ShouldBe("pass-over");
    }

    [Fact]
    public void Changing_nothing_stores_nothing_and_two_who_change_at_once_are_told()
    {
        var pass = Made(new PassTerms { Kind = "frames", Holder = "A", Until = "2027-03-28", MostNetworks = 3, Email = "A@x.example" });
        PassCommands.Set(Site, pass, PassCommands.TermsOf(pass), 1).Value.ToStore.Changes.ShouldBeEmpty();
        PassCommands.Set(Site, pass, PassCommands.TermsOf(pass), 7).Problem!.Kind.ShouldBe(ProblemKind.Stale);
        PassCommands.Renew(Site, pass, "2028-01-01").Value.Value.Version.ShouldBe(2);
        PassCommands.Renew(Site, pass, "never").Value.Value.Until.ShouldBeNull();
        PassCommands.Renew(Site, pass, null).Problem!.Faults.Single().Field.ShouldBe("until");
        PassCommands.Withdraw(pass, Now).Value.ToStore.Changes.ShouldNotBeEmpty();
        PassCommands.Withdraw(pass with { WithdrawnAt = Now }, Now).Value.ToStore.Changes.ShouldBeEmpty();
    }

    /// <summary>
    /// What comes by name and password with a request counts at gates that take it and nowhere else: whatever the gates, nobody gets further by it than by
    /// those gates alone, and nobody becomes staff.
    /// </summary>
    [Property(MaxTest = 400)]
    public void Name_and_password_with_a_request_count_only_where_a_gate_takes_them(int seed)
    {
        var random = new Random(seed);
        string[] audiences = ["pass:frames", "role:dealer", "signed-in", "guest", "not pass:frames", "pass:frames and role:dealer", "role:dealer or password"];
        var gates = Enumerable.Range(0, random.Next(1, 5)).Select(n => Gate("g" + n, "category:filters", audiences[random.Next(audiences.Length)])
            with
        { Basic = (BasicUse)random.Next(3) }).ToList();
        var policy = Core.Access.Policy.Build(
            [Item("category:filters")], gates, [new FactDefinition(FactKind.Pass, "frames", "Frames"), new FactDefinition(FactKind.Role, "dealer", "Dealer")],
            new SiteSettings()).Value;
        var bare = random.Next(2) == 0 ? Visitor.Guest : new Visitor { IsSignedIn = true, Grants = [new Grant(FactKind.Role, "dealer")] };
        var proved = (random.Next(3) switch
        {
            0 => Visitor.Guest.Holding(new Grant(FactKind.Pass, "frames")),
            1 => new Visitor { IsSignedIn = true, Grants = [new Grant(FactKind.Role, "dealer")] },
            _ => new Visitor { IsSignedIn = true, Grants = [new Grant(FactKind.Role, "owner")] },
        }).Over(bare);
        var wanted = gates.All(g => g.Audience.Admits(g.Basic == BasicUse.No ? bare : proved, g.Key, Now));
        policy.Decide(proved, Id("category:filters"), Acts.Open, Now).Value.Allowed.ShouldBe(wanted);
        proved.IsStaff(Now).ShouldBeFalse();
    }
}
