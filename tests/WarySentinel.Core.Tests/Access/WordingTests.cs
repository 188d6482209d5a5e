using System.Globalization;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

public sealed class WordingTests
{
    private static readonly Policy Shop = Scene.Policy(Scene.Shop());

    [Theory]
    [InlineData("anyone", "anyone")]
    [InlineData("role:dealer or role:guide", "dealers or guides")]
    [InlineData("group:schools and signed-in", "schools who are also people who are signed in")]
    [InlineData("signed-in and (role:dealer or password)", "people who are signed in who are also (dealers or holders of the shared password)")]
    [InlineData("not guest", "not guests")]
    [InlineData("bought:product:moss", "buyers of Title of product:moss")]
    [InlineData("network:10.0.0.0/8", "visitors from 10.0.0.0/8")]
    [InlineData("role:owner", "owners")]
    public void An_audience_reads_in_words(string audience, string words) =>
        GateWords.OfAudience(AudienceParser.Parse(audience).Value, Shop).ShouldBe(words);

    [Theory]
    [InlineData("section:members", "open it")]
    [InlineData("page:calendar", "open it")]
    [InlineData("category:filters", "open it, buy it or see its price")]
    public void Usual_acts_read_by_what_is_covered(string covers, string words) => GateWords.OfActs(Scene.Gate("g", covers)).ShouldBe(words);

    [Fact]
    public void Fewer_acts_are_named_one_by_one() =>
        GateWords.OfActs(Scene.Gate("g", "product:moss") with { Acts = Acts.Open | Acts.Price | Acts.Buy }).ShouldBe("open it, see its price or buy it");

    [Fact]
    public void Dates_begin_the_sentence()
    {
        var gate = Scene.Gate("g", "product:moss") with { From = Scene.Now, Until = Scene.Now.AddDays(30) };
        GateSentence.Of(gate, Shop).ToString().ShouldStartWith("From 3 May 2026, 12:00 until 2 June 2026, 12:00, Title of product:moss and all in it: ");
        var days = gate with { From = new DateTimeOffset(2026, 5, 3, 0, 0, 0, TimeSpan.Zero), Until = new DateTimeOffset(2026, 6, 1, 0, 0, 0, TimeSpan.Zero) };
        GateSentence.Of(days, Shop).ToString().ShouldStartWith("From 3 May 2026 until 31 May 2026, ");
    }

    [Theory]
    [InlineData("section:members", "role:dealer", "nur für Dealers zu öffnen. Andere sehen es gelistet; an der Adresse werden sie gebeten, sich anzumelden.")]
    [InlineData("category:filters", "anyone", "für jeden zu öffnen, zu kaufen oder mit Preis zu sehen. Andere sehen es gelistet; ")]
    [InlineData("category:filters", "signed-in or bought:product:moss", "nur für Angemeldete oder Käufer von Title of product:moss zu öffnen, zu kaufen ")]
    public void A_gate_reads_in_the_language_of_whoever_asks(string covers, string audience, string words)
    {
        var gate = Scene.Gate("g", covers) with { Audience = AudienceParser.Parse(audience).Value, From = Scene.Now };
        var before = GateSentence.Of(gate, Shop).ToString();
        using (new Reading("de-AT"))
        {
            var sentence = GateSentence.Of(gate, Shop).ToString();
            sentence.ShouldStartWith("Ab 3. Mai 2026, 12:00, Title of ");
            sentence.ShouldContain(" und alles darin: " + words);
            GateWords.Short(gate, Shop).ShouldEndWith(".");
        }

        using (new Reading("fi"))
        {
            GateSentence.Of(gate, Shop).ToString().ShouldBe(before);
        }
    }

    [Fact]
    public void The_parts_of_a_sentence_join_to_the_sentence_and_name_their_fields()
    {
        var sentence = GateSentence.Of(Scene.Gate("g", "category:filters,path:/x/**"), Shop);
        string.Concat(sentence.Parts.Select(p => p.Text)).ShouldBe(sentence.ToString());
        sentence.Parts.Where(p => p.Edits is not null).Select(p => p.Edits).ShouldBe(["covers", "reach", "audience", "acts", "presence", "answer"]);
    }

    [Theory]
    [InlineData(Answer.SignIn, "are asked to sign in")]
    [InlineData(Answer.Message, "read a message")]
    [InlineData(Answer.NotFound, "find nothing there")]
    [InlineData(Answer.Redirect, "are sent to /join")]
    public void Answers_read_in_words(Answer answer, string words) =>
        GateWords.OfAnswer(Scene.Gate("g", "product:moss") with { Answer = answer, RedirectTo = "/join" }).ShouldBe(words);

    [Theory]
    [InlineData("dealr", "dealer")]
    [InlineData("category:filtres", "category:filters")]
    [InlineData("zzzzzzzz", null)]
    [InlineData("", null)]
    public void The_nearest_word_is_near_or_none(string typed, string? expected) =>
        Nearest.To(typed, ["dealer", "guide", "category:filters", "keeper"]).ShouldBe(expected);

    [Theory]
    [InlineData("product:a-1", true)]
    [InlineData("site", true)]
    [InlineData("site:x", false)]
    [InlineData("Product:a", false)]
    [InlineData("product:", false)]
    [InlineData("product:A", false)]
    [InlineData("product:-a", false)]
    [InlineData("2:a", false)]
    [InlineData(":a", false)]
    [InlineData(null, false)]
    public void A_name_of_an_item_has_one_form(string? text, bool good)
    {
        ItemId.TryParse(text, out var id).ShouldBe(good);
        if (good)
        {
            id.ToString().ShouldBe(text);
        }
    }

    [Fact]
    public void Viewpoints_are_guest_member_and_everything_members_can_hold()
    {
        Viewpoint.All(Shop).Select(v => v.Key).ShouldBe(["guest", "signed-in", "role:dealer", "role:guide", "group:schools"]);
        Viewpoint.Find(Shop, "role:deeler").Problem!.Detail.ToString().ShouldContain("role:dealer");
        Viewpoint.All(Shop).ShouldAllBe(v => v.Visitor.IsViewpoint);
    }

    [Fact]
    public void An_edit_moves_a_policy_just_as_building_it_anew_would()
    {
        var gate = Scene.Gate("g", "category:filters");
        var item = Scene.Item("product:new", ["category:filters"], ["/product/new"]);
        var moved = Shop.After(new Edit("x", "x", [new GatePut(gate), new ItemsPut([item]), new FactDefinitionDropped(FactKind.Role, "guide")]));
        moved.Opens(Visitor.Guest, "product:new").ShouldBeFalse();
        moved.OpensPath(Visitor.Guest, "/product/new").ShouldBeFalse();
        moved.Definitions.ShouldNotContain(s => s.Key == "guide");
        Shop.Opens(Visitor.Guest, "product:moss").ShouldBeTrue();
        moved.After(new Edit("x", "x", [new GateDropped("g"), new ItemsDropped([item.Id])])).Graph.Items.Count.ShouldBe(Shop.Graph.Items.Count);
    }

    /// <summary>Reads in another language for a while.</summary>
    private sealed class Reading : IDisposable
    {
        private readonly CultureInfo before = CultureInfo.CurrentUICulture;

        public Reading(string language) => CultureInfo.CurrentUICulture = CultureInfo.GetCultureInfo(language);

        public void Dispose() => CultureInfo.CurrentUICulture = before;
    }
}
