using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.SetUp;
using WarySentinel.Core.SiteFile;
using WarySentinel.Core.Tests.Access;
using WarySentinel.Oracle;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.SetUp;

public sealed class SetUpTests
{
    private static readonly string[] Places = ["/a", "/a/**", "/b/c", "/members", "/members/**", "/shop/**", "section:shop", "category:filters"];
    private static readonly string[] Audiences = ["signed-in", "role:dealer", "plan:night-pass", "role:guide or group:schools", "nobody"];
    private static readonly string[] Titles = ["Night pass", "A year as patron", "Ä b", "Night  Pass!"];

    /// <summary>Answers that may be right, any of them left out.</summary>
    public static Arbitrary<SetUpAnswers> Answers() => (
        from closed in Gen.SubListOf(Places)
        from who in Gen.Elements([null, .. Audiences])
        from sells in Gen.SubListOf(Titles)
        from some in Gen.Choose(0, 63)
        select new SetUpAnswers
        {
            Name = (some & 1) > 0 ? "Hill" : null, Closed = closed.Count > 0 ? [.. closed] : null, Who = who,
            Others = (some & 2) > 0 ? "hidden" : (some & 4) > 0 ? "listed" : null,
            Sells = sells.Count > 0 || who?.Contains("night-pass", StringComparison.Ordinal) == true
                ? [new Sold("Night pass", null, (some & 1) > 0 ? "P30D" : null), .. Different(sells)]
                : null,
            Joining = (some & 8) > 0 ? "approval" : null, SignIn = (some & 16) > 0 ? "letter" : null, Lands = (some & 32) > 0 ? "/visit" : null,
            Notices = (some & 1) > 0 ? "owner@hill.example" : null,
        }).ToArbitrary();

    [Property(MaxTest = 400, Arbitrary = [typeof(SetUpTests)])]
    public void Said_again_it_changes_nothing_and_what_it_reads_back_says_the_same(SetUpAnswers answers)
    {
        var made = Made(Start(), answers);
        Apply(made, answers).Difference.IsEmpty.ShouldBeTrue();
        Apply(made, SetUpAnswers.Of(made)).Difference.Changes.SelectMany(c => c.Changes.Select(o => $"{c.Section} {c.Key} {o}")).ShouldBeEmpty();
    }

    [Property(MaxTest = 400, Arbitrary = [typeof(SetUpTests)])]
    public void What_is_closed_is_closed_to_guests_and_no_other_gate_is_touched(SetUpAnswers answers)
    {
        var before = Policy(Shop(), Gate("other", "category:dealer", "role:guide"));
        var after = Made(before, answers);
        after.FindGate("other").ShouldBe(before.FindGate("other"));
        foreach (var place in answers.Closed ?? [])
        {
            (place.StartsWith('/') ? after.OpensPath(Visitor.Guest, place.Replace("**", "deep/down", StringComparison.Ordinal))
                : after.Opens(Visitor.Guest, place)).ShouldBeFalse(place);
        }

        // Whatever was open and is not named, stays open.
        if (answers.Closed is null)
        {
            after.OpensPath(Visitor.Guest, "/shop").ShouldBeTrue();
        }
    }

    [Tried(50, 2000, Arbitrary = [typeof(Worlds)])]
    public void In_any_site_it_opens_nothing_that_was_closed(World world)
    {
        var policy = SiteFileTests.Known(world);
        var after = Made(policy, new SetUpAnswers { Closed = ["/a/**", "/quite/new/**"], Who = "signed-in", Others = "hidden" });
        foreach (var visitor in world.Visitors.Select(v => v.ToVisitor()))
        {
            policy.Graph.Items.Where(i => after.Allows(visitor, i.Id, Acts.Open, Now)).ShouldAllBe(i => policy.Allows(visitor, i.Id, Acts.Open, Now));
        }
    }

    [Fact]
    public void What_was_made_finer_by_hand_stays()
    {
        var made = Made(Start(), new SetUpAnswers { Closed = ["/a/**"], Sells = [new Sold("Night pass")] });
        var finer = made.FindGate("members")! with { Message = "Ask at the dome.", Title = "The hill" };
        var touched = made.After(new Edit("gate.set", "members", [new GatePut(finer)]));
        var again = Made(touched, new SetUpAnswers { Closed = ["/a/**", "/b/**"] });
        again.FindGate("members")!.ShouldSatisfyAllConditions(
            g => g.Message.ShouldBe("Ask at the dome."), g => g.Title.ShouldBe("The hill"), g => g.Covers.Count.ShouldBe(2),
            g => g.Audience.ToString().ShouldBe("plan:night-pass"));
    }

    [Fact]
    public void Each_wrong_answer_is_told_by_its_name_and_nothing_is_made()
    {
        var (difference, edit) = Apply(Start(), new SetUpAnswers
        {
            Name = "", Language = "xx-nonsense-", TimeZone = "Mars/Olympus", Closed = ["nowhere:x"], Who = "role:dealr", Others = "sometimes",
            Sells = [new Sold("!"), new Sold("Ever", null, "soon")],
            Joining = "perhaps", SignIn = "stamp", Lands = "https://elsewhere.example/", Notices = "nobody",
        });
        edit.ShouldBeNull();
        difference.Faults.Select(f => f.Field).Distinct().ShouldBe(
            ["name", "language", "timeZone", "joining", "others", "signIn", "notices", "sells"], ignoreOrder: true);
        Apply(Start(), new SetUpAnswers { Closed = ["/x"], Who = "role:dealr" }).Difference.Faults.ShouldHaveSingleItem().Field.ShouldBe("who");
        Apply(Start(), new SetUpAnswers { Closed = ["/account/x"] }).Difference.Faults.ShouldHaveSingleItem().Field.ShouldBe("closed");
        Apply(Start(), new SetUpAnswers { Closed = [] }).Difference.Faults.ShouldHaveSingleItem().Field.ShouldBe("closed");
        Apply(Start(), new SetUpAnswers { Lands = "//elsewhere.example" }).Difference.Faults.ShouldHaveSingleItem().Field.ShouldBe("lands");
    }

    [Fact]
    public void Whoever_gets_in_at_a_closed_address_is_found()
    {
        var made = Made(Start(), new SetUpAnswers { Closed = ["/a", "/a/**"], Who = "role:guide or role:dealer" });
        ClosedAddress.Of(made, Now, 5).ShouldHaveSingleItem().ShouldBe(new ClosedAddress("/a", "role:dealer"));
        var nobody = Made(Start(), new SetUpAnswers { Closed = ["/a/**"], Who = "role:guide and role:dealer" });
        ClosedAddress.Of(nobody, Now, 5).ShouldHaveSingleItem().Insider.ShouldBeNull();
        ClosedAddress.Of(Policy(Shop(), Gate("g", "path:/a/**"), Exemption("e", "path:/a/**")), Now, 5).ShouldHaveSingleItem();
    }

    [Theory]
    [InlineData("<title>Visit | The Hill</title><header>The Hill</header>", "The Hill")]
    [InlineData("<title>The Hill – stars for all</title>", "The Hill")]
    [InlineData("<title>Plain</title>", "Plain")]
    [InlineData("<meta property=og:site_name content='Said so'><title>Other</title>", "Said so")]
    [InlineData("<title></title>", null)]
    [InlineData("", null)]
    public void A_site_says_its_name(string html, string? name) => SiteFinder.Read(html, new Uri("http://hill.example/")).Title.ShouldBe(name);

    [Fact]
    public void The_parts_of_a_site_are_the_folders_that_its_front_page_leads_to()
    {
        var found = SiteFinder.Read(
            """
            <html lang="pt-BR"><body><a href="/blog/one">One</a><header><a href="/members/">Members<br>area</a><a href="/">Home</a></header>
            <a href="http://elsewhere.example/x">out</a><a href="mailto:a@b.example">mail</a><a href="javascript:x">x</a><a href="feed.xml">feed</a>
            <a href="/shop?page=2"><img src=x alt="Our shop"></a><a href="//hill.example/members/again">again</a><a href="http://[bad">bad</a>
            """,
            new Uri("http://hill.example/index.html"));
        found.Language.ShouldBe("pt-BR");
        found.Parts.ShouldBe([new FoundPart("/members", "Members area"), new FoundPart("/blog", ""), new FoundPart("/shop", "Our shop")]);
    }

    private static IEnumerable<Sold> Different(IEnumerable<string> titles) =>
        titles.Select(t => new Sold(t)).Where(s => s.PlanKey != "night-pass").DistinctBy(s => s.PlanKey);

    private static Core.Access.Policy Start() => Policy(Shop());

    private static Core.Access.Policy Made(Core.Access.Policy policy, SetUpAnswers answers)
    {
        var (difference, edit) = Apply(policy, answers);
        difference.Faults.Select(f => f.Field + ": " + f.Message).ShouldBeEmpty();
        return edit is null ? policy : policy.After(edit);
    }

    private static (SiteDifference Difference, Edit? Edit) Apply(Core.Access.Policy policy, SetUpAnswers answers) => SetUpCommands.Apply(
        policy, answers, null, new GateSurroundings(new KnownKeys(policy, _ => false), Reserved, [], Now), _ => false);
}
