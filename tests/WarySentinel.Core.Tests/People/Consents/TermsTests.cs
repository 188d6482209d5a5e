using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using Xunit;

namespace WarySentinel.Core.Tests.People.Consents;

/// <summary>Terms in versions: who is asked what and when, against a plain second reading, under any order of publishing and answering.</summary>
public sealed class TermsTests
{
    private static readonly int Many = Trials.Of(600, 20000);
    private const int Steps = 14;
    private static readonly DateTimeOffset Start = new(2027, 3, 1, 20, 0, 0, TimeSpan.Zero);
    private static readonly string[] Keys = ["use", "trade"];
    private static readonly string[] Audiences = ["signed-in", "group:dealers", "nobody", "role:guide or group:dealers"];

    private static readonly PolicyMaker Empty = new(
        Policy.Build([], [], [new(FactKind.Group, "dealers", "Dealers"), new(FactKind.Role, "guide", "Guides")], new SiteSettings()).Value);

    [Fact]
    public void Who_is_asked_what_is_what_a_plain_reading_says_in_whatever_order_things_happen()
    {
        for (var seed = 0; seed < Many; seed++)
        {
            var (random, maker, now) = (new Random(seed), Empty, Start);
            // The second reading keeps nothing but a list of what happened.
            var (published, said) = (new List<(string Key, int Number, DateTimeOffset From, bool Minor)>(), new List<(string Key, int Number, bool Agreed)>());
            var (audiences, optional) = (new Dictionary<string, string>(), new Dictionary<string, bool>());
            var member = Someone(random.Next(3) switch { 0 => [], 1 => [new(FactKind.Group, "dealers")], _ => [new(FactKind.Role, "guide")] });
            for (var step = 0; step < Steps; step++)
            {
                now += TimeSpan.FromHours(random.Next(1, 60));
                var key = Keys[random.Next(2)];
                if (random.Next(2) == 0)
                {
                    var draft = new TermsDraft
                    {
                        Key = key, Title = "Terms", Text = random.Next(4) == 0 ? "The same." : $"Text {step}",
                        Audience = Audiences[random.Next(Audiences.Length)],
                        Optional = random.Next(3) == 0, Minor = random.Next(3) == 0,
                        From = random.Next(2) == 0 ? null : SiteDates.Write(now.AddHours(random.Next(-20, 50))),
                    };
                    var put = TermsCommands.Put(maker.Policy, draft, new TermsSurroundings(new KnownKeys(maker.Policy, _ => false), "owner", now));
                    if (put.Problem is null)
                    {
                        (maker, audiences[key], optional[key]) = (maker.After(put.Value.ToStore), draft.Audience, draft.Optional == true);
                        if (put.Value.ToStore.Action == "terms.publish")
                        {
                            var begins = put.Value.Value.Newest.From;
                            begins.ShouldBeGreaterThanOrEqualTo(now.AddSeconds(-1));
                            published.Add((key, published.Count(p => p.Key == key) + 1, begins, published.Any(p => p.Key == key) && draft.Minor == true));
                        }
                    }
                }
                else
                {
                    var agrees = random.Next(3) > 0;
                    var asked = Book(maker).DueFor(member.AsVisitor(), member.Said, now);
                    var answered = ConsentCommands.Answer(member, asked, asked.ToDictionary(d => d.Terms.Key, d => (d.Text.Number, agrees)), ("en", "en"), now);
                    member = answered.Value.Value;
                    asked.ToList().ForEach(d => said.Add((d.Terms.Key, d.Text.Number, agrees)));
                }

                var due = Book(maker).DueFor(member.AsVisitor(), member.Said, now).Select(d => $"{d.Terms.Key} {d.Text.Number}").Order();
                due.ShouldBe(Plain(published, said, audiences, optional, member, now).Order(), $"seed {seed}, step {step}");
                var needed = Book(maker).DueFor(member.AsVisitor(), member.Said, now).Any(d => !d.Terms.IsOptional);
                Book(maker).KeepsOut(member.AsVisitor(), member.Said, now).ShouldBe(needed);
                Book(maker).VisitorOf(member, now).IsSignedIn.ShouldBe(!needed);
                HoldsAsLongAsItSays(Book(maker), member, random, now);
            }
        }
    }

    /// <summary>What is remembered of somebody is what would be found out at any time until when it is said to hold.</summary>
    private static void HoldsAsLongAsItSays(TermsBook book, Member member, Random random, DateTimeOffset now)
    {
        DateTimeOffset? Some() => random.Next(2) == 0 ? null : now.AddHours(random.Next(-40, 80));
        var visitor = (member with { Grants = [.. member.Grants.Select(g => g with { From = Some(), Until = Some() })] }).AsVisitor();
        var verdict = book.VerdictFor(visitor, member.Said, now);
        verdict.Holds(book, now).ShouldBeTrue();
        verdict.Holds(new TermsBook(), now).ShouldBeFalse();
        foreach (var later in Enumerable.Range(-5, 90).Select(h => now.AddHours(h)).Where(t => verdict.Holds(book, t)))
        {
            book.KeepsOut(visitor, member.Said, later).ShouldBe(verdict.KeepsOut);
        }
    }

    [Fact]
    public void What_was_published_stays_word_for_word_and_a_version_that_counts_is_never_taken_back()
    {
        var maker = Empty.After(Put(Empty, new TermsDraft { Key = "use", Title = "Use", Text = "First." }).Value.ToStore);
        maker = maker.After(Put(maker, new TermsDraft { Key = "use", Title = "Use", Text = "Second.", From = "2027-04-01" }).Value.ToStore);
        var terms = Book(maker).Find("use").ShouldNotBeNull();
        (terms.InForce(Start)!.Text, terms.InForce(Start.AddDays(60))!.Text).ShouldBe(("First.", "Second."));
        TermsCommands.Withdraw(maker.Policy, "use", 1, Start).Problem!.Code.ShouldBe("terms-in-force");
        TermsCommands.Withdraw(maker.Policy, "use", 2, Start.AddDays(60)).Problem!.Code.ShouldBe("terms-in-force");
        Put(maker, new TermsDraft { Key = "use", Title = "Use", Text = "Third.", From = "2027-03-15" }).Problem!.Faults[0].Field.ShouldBe("from");
        maker = maker.After(TermsCommands.Withdraw(maker.Policy, "use", 2, Start).Value.ToStore);
        Book(maker).Find("use")!.Texts.Select(t => t.Text).ShouldBe(["First."]);
        Put(maker, Book(maker).Find("use")!.ToDraft() with { Audience = "group:dealers" }).Value.ToStore.Action.ShouldBe("terms.set");
    }

    [Fact]
    public void Nobody_agrees_to_a_version_that_they_did_not_see_and_staff_are_not_asked()
    {
        var maker = Empty.After(Put(Empty, new TermsDraft { Key = "use", Title = "Use", Text = "First." }).Value.ToStore);
        var member = Someone([]);
        var due = Book(maker).DueFor(member.AsVisitor(), member.Said, Start);
        ConsentCommands.Answer(member, due, new Dictionary<string, (int, bool)> { ["use"] = (2, true) }, ("", "en"),
            Start).Problem!.Code.ShouldBe("terms-changed");
        ConsentCommands.Answer(member, due, new Dictionary<string, (int, bool)>(), ("", "en"), Start).Problem!.Code.ShouldBe("terms-changed");
        var editor = Someone([new(FactKind.Role, "editor")]);
        Book(maker).DueFor(editor.AsVisitor(), [], Start).ShouldBeEmpty();
        Book(maker).DueFor(Visitor.Guest, [], Start).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("key", "No Key", "Use", "x", "signed-in")]
    [InlineData("title", "use", null, "x", "signed-in")]
    [InlineData("text", "use", "Use", "", "signed-in")]
    [InlineData("text", "use", "Use", "a\0b", "signed-in")]
    [InlineData("audience", "use", "Use", "x", "group:dealer")]
    public void What_cannot_be_taken_is_said_with_its_field(string field, string key, string? title, string text, string audience) =>
        Put(Empty, new TermsDraft { Key = key, Title = title, Text = text, Audience = audience }).Problem!.Faults[0].Field.ShouldBe(field);

    /// <summary>What is due, from nothing but a list of what happened.</summary>
    private static IEnumerable<string> Plain(
        List<(string Key, int Number, DateTimeOffset From, bool Minor)> published, List<(string Key, int Number, bool Agreed)> said,
        Dictionary<string, string> audiences, Dictionary<string, bool> optional, Member member, DateTimeOffset now)
    {
        foreach (var (key, audience) in audiences)
        {
            var isFor = audience switch
            {
                "signed-in" => true,
                "nobody" => false,
                "group:dealers" => member.Grants.Any(g => g.Key == "dealers"),
                _ => member.Grants.Count > 0,
            };
            var counting = published.FindAll(p => p.Key == key && p.From <= now);
            if (!isFor || counting.Count == 0)
            {
                continue;
            }

            var mattersSince = counting.FindLast(p => !p.Minor).Number;
            var last = said.FindLast(s => s.Key == key);
            if (last.Key is null || last.Number < mattersSince || !(last.Agreed || optional[key]))
            {
                yield return $"{key} {counting[^1].Number}";
            }
        }
    }

    private static TermsBook Book(PolicyMaker maker) => TermsBook.Of(maker.Policy);

    private static Outcome<Edit<TermsOfSite>> Put(PolicyMaker maker, TermsDraft draft) =>
        TermsCommands.Put(maker.Policy, draft, new TermsSurroundings(new KnownKeys(maker.Policy, _ => false), "owner", Start));

    private static Member Someone(IReadOnlyList<Grant> grants) =>
        new(Guid.NewGuid(), "orla@vane.example", "Orla", null, null, MemberStatus.Active, grants, Start);

    /// <summary>A policy, one edit after the other.</summary>
    private sealed record PolicyMaker(Policy Policy)
    {
        public PolicyMaker After(Edit edit) => new(Policy.TryAfter(edit).Value);
    }
}
