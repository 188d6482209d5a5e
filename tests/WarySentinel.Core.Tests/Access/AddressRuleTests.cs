using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

/// <summary>An item is as closed at each of its addresses, and in each of their spellings, as the rules say.</summary>
public sealed class AddressRuleTests
{
    [Theory]
    [InlineData("/shop/dealer/index.html")]
    [InlineData("/shop/dealer/Index.HTM")]
    [InlineData("/shop/dealer/index.php")]
    [InlineData("/shop/dealer/index.html/")]
    [InlineData("/shop/dealer//index.html?x=1")]
    [InlineData("/shop/dealer/%69ndex.html")]
    [InlineData("/shop/dealer/./index.html")]
    [InlineData("/shop/dealer/index.html/index.html")]
    public void An_index_file_is_its_folder(string spelling) => Policy(Shop(), Gate("g", "category:dealer")).OpensPath(Visitor.Guest, spelling).ShouldBeFalse();

    [Fact]
    public void Which_names_are_index_files_is_a_setting()
    {
        var policy = Core.Access.Policy.Build(Shop(), [Gate("g", "category:dealer")], [], new SiteSettings
        { Paths = new PathRules { IndexNames = ["start.page"] } }).Value;
        bool Opens(string path) => RequestPath.TryNormalise(path, policy.Settings.Paths, out var read, out _) && policy.Judge(Visitor.Guest, read, Now).Allowed;
        Opens("/shop/dealer/start.page").ShouldBeFalse();
        Opens("/shop/dealer/index.html").ShouldBeTrue();
        RequestPath.TryNormalise("/shop/dealer/start.page", policy.Settings.Paths, out var sent, out _).ShouldBeTrue();
        sent.Sent.ShouldBe("/shop/dealer/start.page");
    }

    [Fact]
    public void A_gate_on_one_address_reaches_the_item_at_its_others()
    {
        Item[] items = [Item("page:a", null, ["/a", "/old/**"])];
        var policy = Policy(items, Gate("g", "path:/a"));
        policy.OpensPath(Visitor.Guest, "/old/x").ShouldBeFalse();
        policy.Opens(Visitor.Guest, "page:a").ShouldBeFalse();
        var mirror = Policy(items, Gate("g", "path:/old/**"));
        mirror.OpensPath(Visitor.Guest, "/a").ShouldBeFalse();
    }

    [Fact]
    public void A_literal_path_is_longer_than_any_pattern()
    {
        var policy = Policy([], Gate("g", "path:/b"), Exemption("e", "path:/b/**"));
        policy.OpensPath(Visitor.Guest, "/b").ShouldBeFalse();
        Policy([], Gate("g", "path:/b/**"), Exemption("e", "path:/b")).OpensPath(Visitor.Guest, "/b").ShouldBeTrue();
        // Counted in whole segments, not in characters.
        Policy([], Gate("g", "path:/abcdefgh/*"), Exemption("e", "path:/abcdefgh/**")).OpensPath(Visitor.Guest, "/abcdefgh/x").ShouldBeFalse();
    }

    [Fact]
    public void To_open_the_address_of_a_download_is_to_have_it()
    {
        var policy = Policy([Item("download:atlas", null, ["/files/atlas.pdf"])], Gate("g", "download:atlas") with { Acts = Acts.Download });
        policy.Decide(Visitor.Guest, Path("/files/atlas.pdf"), Acts.Open, Now).Allowed.ShouldBeFalse();
        policy.Allows(Visitor.Guest, Path("/files/atlas.pdf"), Acts.Open, Now).ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/files/atlas.pdf").ShouldBeFalse();
        policy.Opens(Visitor.Guest, "download:atlas").ShouldBeTrue();
    }

    [Fact]
    public void Who_gave_the_password_is_led_to_what_is_missing_next()
    {
        var policy = Policy(Shop(), Gate("g", "category:filters", "password and role:dealer"));
        Answer AnswerTo(Visitor visitor) => policy.Decide(visitor, Path("/shop/filters"), Acts.Open, Now).Refusal!.Answer;
        Unlock[] unlocked = [new Unlock("g", Now.AddDays(1))];
        AnswerTo(Visitor.Guest).ShouldBe(Answer.Password);
        AnswerTo(Visitor.Guest.Having(unlocked)).ShouldBe(Answer.SignIn);
        AnswerTo(Role("guide").Having(unlocked)).ShouldBe(Answer.Message);
        AnswerTo(Role("dealer")).ShouldBe(Answer.Password);
    }

    [Fact]
    public void Case_is_one_in_every_script_where_it_is_ignored()
    {
        var policy = Policy([Item("page:s", null, ["/straſſe/ΣΊΣΥΦΟΣ"])], Gate("g", "page:s"));
        foreach (var spelling in new[] { "/strasse/σίσυφοσ", "/STRASSE/ΣΊΣΥΦΟΣ", "/straſſe/σίσυφος" })
        {
            RequestPath.TryNormalise(Uri.EscapeDataString(spelling).Replace("%2F", "/", StringComparison.Ordinal), policy.Settings.Paths, out var path,
                out _).ShouldBeTrue();
            policy.Judge(Visitor.Guest, path, Now).Allowed.ShouldBeFalse(spelling);
        }
    }

    [Fact]
    public void Removing_an_item_tells_what_opens_by_it()
    {
        Item[] items = [Item("section:club", null, ["/club", "/club/**"]), Item("page:minutes", null, ["/club/minutes"])];
        var policy = Policy(items, Gate("g", "path:/club/minutes"), Gate("s", "section:club") with { Enabled = false });
        var without = policy.TryAfter(new Edit("x", "x", [new ItemsDropped([Id("section:club")])])).Value;
        Opening.By(policy, without, policy.Graph.Find(Id("section:club"))!, Now).ShouldBeEmpty();
        var guarded = Policy([Item("category:c"), Item("page:p", ["category:c"], ["/p"])], Gate("g", "category:c", hidden: true));
        var opens = Opening.By(guarded, guarded.TryAfter(new Edit("x", "x", [new ItemsDropped([Id("page:p")])])).Value,
            guarded.Graph.Find(Id("page:p"))!, Now);
        var one = opens.ShouldHaveSingleItem();
        (one.What, one.Before, one.After).ShouldBe(("/p", Sight.Hidden, Sight.Open));
        one.ForWhom.ShouldContain("Guest");
        one.ForWhom.ShouldNotContain("Dealers");
    }
}
