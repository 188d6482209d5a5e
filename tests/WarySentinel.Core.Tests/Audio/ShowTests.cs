using System.Globalization;
using System.Xml.Linq;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Facts;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Audio;

/// <summary>Shows: what people write of them, who hears what, and the feed as other programs read it.</summary>
public sealed class ShowTests
{
    private static readonly XNamespace Players = "http://www.itunes.com/dtds/podcast-1.0.dtd";

    private static readonly Policy Site = Core.Access.Policy.Build(
        [Item("show:hours"), Item("episode:one", ["show:hours"]), Item("episode:two", ["show:hours"]), Item("show:other"), Item("episode:far", ["show:other"])],
        [], [], new SiteSettings { TimeZone = "Europe/Lisbon" }).Value;

    private static ShowDraft Hours(params EpisodeDraft[] episodes) => new() { Key = "hours", By = "The dome", Notes = "A show a month.", Episodes = episodes };

    private static Outcome<Edit<Show>> Put(Policy policy, ShowDraft draft, int? version = null) => ShowCommands.Put(policy, draft, version, Now);

    [Fact]
    public void What_is_wrong_is_told_at_once_and_where()
    {
        var put = Put(Site, Hours(
            new("episode:one", "one.mp3", "2026-03-01", Length: "42:10"), new("episode:one", "one.mp3"), new("episode:far", "far.mp3"),
            new("episode:tw", "two.mp3"), new("product:x", "../two.mp3", "soon", Length: "42"), null!) with
        { Language = "klingon-", Picture = "p.svg" });
        put.Problem!.Faults.Select(f => f.Field).ShouldBe(
            (IEnumerable<string>)
            [
                "language", "picture", "episodes[1].item", "episodes[2].item", "episodes[3].item", "episodes[4].item", "episodes[4].file", "episodes[4].at",
                "episodes[4].length", "episodes[5].item", "episodes[5].file",
            ]);
        put.Problem.Faults[4].Message.ToString().ShouldContain("Did you mean “episode:two”?");
        Put(Site, new ShowDraft { Key = "hour" }).Problem!.Faults.Single().Message.ToString().ShouldContain("Did you mean “show:hours”?");
    }

    [Theory]
    [InlineData("42:10", "42:10")]
    [InlineData("1:02:10", "1:02:10")]
    [InlineData("01:02:10", "1:02:10")]
    [InlineData("0:07", "0:07")]
    [InlineData("61:00", null)]
    [InlineData("0:00", null)]
    [InlineData("-1:00", null)]
    [InlineData("1:60", null)]
    public void A_length_is_minutes_and_seconds(string typed, string? read)
    {
        var put = Put(Site, Hours(new EpisodeDraft("episode:one", "one.mp3", Length: typed)));
        (put.IsGood ? ShowDraft.Of(put.Value.Value).Episodes![0].Length : null).ShouldBe(read);
    }

    [Fact]
    public void Nothing_changes_where_the_same_is_said_again_and_what_is_not_said_stays()
    {
        var first = Put(Site, Hours(new("episode:one", "one.mp3", "2026-03-01"), new EpisodeDraft("episode:two", "two.m4a"))).Value;
        first.Value.Episodes.Select(e => e.Item.Key).ShouldBe((IEnumerable<string>)["two", "one"], "the newest first");
        var there = Site.After(first.ToStore);
        Put(there, ShowDraft.Of(first.Value)).Value.ToStore.Changes.ShouldBeEmpty();
        Put(there, Hours(new("episode:one", "one.mp3"), new EpisodeDraft("episode:two", "two.m4a"))).Value.ToStore.Changes.ShouldBeEmpty(
            "since when one is out stays where nobody says");
        Put(there, Hours() with { Episodes = null, By = "Others" }).Value.Value.Episodes.Count.ShouldBe(2);
        Put(there, Hours(), 7).Problem!.Kind.ShouldBe(ProblemKind.Stale);
        there.Parts.Of<ShowBook>().Holding(new(Core.Catalogue.ItemKind.Episode, "one")).ShouldBe("show hours");
        ShowBook.Of(there.After(ShowCommands.Remove(there, "hours").Value.ToStore)).All.ShouldBeEmpty();
    }

    [Property(MaxTest = 200)]
    public void Who_hears_an_episode_is_who_may_open_and_listen_to_it_once_it_is_out(bool dealer, bool gate, bool freed, bool later, int acts)
    {
        var gates = new List<Gate>();
        if (gate)
        {
            gates.Add(Gate("g", "show:hours", "role:dealer") with { Acts = new[] { Acts.Usual, Acts.Listen, Acts.Open, Acts.Download }[(acts & 0xff) % 4] });
        }

        if (freed)
        {
            gates.Add(Exemption("free", "episode:one"));
        }

        var policy = Core.Access.Policy.Build(Site.Graph.Items, gates, [new FactDefinition(FactKind.Role, "dealer", "Dealers")], Site.Settings).Value;
        var show = Put(policy, Hours(new EpisodeDraft("episode:one", "one.mp3", later ? "2400-01-01" : "2020-01-01"))).Value.Value;
        var visitor = dealer ? Role("dealer") : Visitor.Guest;
        // Gates that guard neither opening nor listening keep nobody from it.
        var closed = gate && !freed && !dealer && (gates[0].Acts & (Acts.Open | Acts.Listen)) != 0;
        show.HeardBy(policy, visitor, Now).Any().ShouldBe(!later && !closed);
    }

    [Property(MaxTest = 300)]
    public void Any_words_at_all_come_through_a_feed_as_they_are(string? title, string? notes, string? by)
    {
        static string Kept(string? text) => new([.. (text ?? "").Where(c => System.Xml.XmlConvert.IsXmlChar(c))]);
        var feed = Feed(title ?? "", notes ?? "", by ?? "");
        var channel = XDocument.Parse(System.Text.Encoding.UTF8.GetString(feed.Write()), LoadOptions.PreserveWhitespace).Root!.Element("channel")!;
        // A carriage return is written as a reference and read as it was.
        channel.Element("title")!.Value.ShouldBe(Kept(title));
        channel.Element(Players + "author")!.Value.ShouldBe(Kept(by));
        var item = channel.Element("item")!;
        item.Element("title")!.Value.ShouldBe(Kept(title));
        (item.Element("description")?.Value ?? "").ShouldBe(Kept(notes));
        feed.Write().ShouldBe(feed.Write(), "the same for the same, so that what has not changed is not sent again");
    }

    [Fact]
    public void A_feed_says_what_players_ask_for()
    {
        var item = XDocument.Parse(System.Text.Encoding.UTF8.GetString(Feed("A & B <i>", "Notes", "Me").Write())).Root!.Element("channel")!.Element("item")!;
        item.Element("guid")!.ShouldSatisfyAllConditions(g => g.Value.ShouldBe("episode:one"), g => g.Attribute("isPermaLink")!.Value.ShouldBe("false"));
        item.Element("pubDate")!.Value.ShouldBe("Sun, 01 Mar 2026 18:00:00 GMT");
        DateTimeOffset.Parse(item.Element("pubDate")!.Value, CultureInfo.InvariantCulture).ShouldBe(new DateTimeOffset(2026, 3, 1, 18, 0, 0, TimeSpan.Zero));
        item.Element("enclosure")!.Attributes().Select(a => a.Value).ShouldBe((IEnumerable<string>)["https://x.example/a?b=1&c=2", "1234", "audio/mpeg"]);
        item.Element(Players + "duration")!.Value.ShouldBe("1:02:10");
    }

    private static ShowFeed Feed(string title, string notes, string by) => new()
    {
        Title = title, Page = "https://x.example/", Self = "https://x.example/feed", Notes = notes, Language = "en", By = by,
        Episodes =
        [
            new FeedEpisode(
                "episode:one", title, new DateTimeOffset(2026, 3, 1, 18, 0, 0, TimeSpan.Zero), notes, null, "https://x.example/a?b=1&c=2", "audio/mpeg", 1234,
                new TimeSpan(1, 2, 10)),
        ],
    };
}
