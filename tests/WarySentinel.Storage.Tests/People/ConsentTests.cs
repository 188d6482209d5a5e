using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteConsentTests() : ConsentTests("sqlite");

public sealed class PostgresConsentTests() : ConsentTests("postgres");

/// <summary>Terms, what members say to them, what they show of themselves, and who is found by what they answered, as all of that is kept.</summary>
public abstract class ConsentTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset At = new(2027, 3, 1, 20, 0, 0, TimeSpan.Zero);
    private static readonly string[] Towns = ["Porto", "Évora", "Lugo", "100% dark_sky\\"];
    private static readonly string[] Names = ["Ada Quill", "Bo Ander", "Cyr Ünal", "Dot Mar"];

    private static readonly string[] Sought =
        ["porto", "PORTO", "evora", "moon", "100%", "_", "\\", "a", "ünal", "unal", "lugo1", "porto1@", "dot mar", "%", "zz"];

    [Fact]
    public async Task Versions_are_kept_word_for_word_taken_back_and_stay_where_somebody_has_said_something()
    {
        var words = new Dictionary<string, TermsWords> { ["de"] = new("Nutzung", "Schauen\nSie. 🌙", null) };
        var put = new TermsPut("use", new Audience.Fact(FactKind.Group, "circle"), true, 5, 1);
        await PutAsync(new TermsPublished(put, new TermsText(1, "Use", "One\n\n> İ", "New", At, false, words, At, "owner")));
        await PutAsync(new TermsPublished(put with { Version = 2 }, new TermsText(2, "Use", "Two", null, At.AddDays(9), true, null, At, "owner")));
        await PutAsync(new TermsPut("use", new Audience.Plain(PlainAtom.SignedIn), false, null, 3));
        var terms = (await TermsAsync()).ShouldHaveSingleItem();
        (terms.Audience.ToString(), terms.IsOptional, terms.Position, terms.Version).ShouldBe(("signed-in", false, null, 3));
        (terms.Texts[0].Text, terms.Texts[0].Note, terms.Texts[0].From, terms.Texts[0].In!["de"]).ShouldBe(("One\n\n> İ", "New", At, words["de"]));
        (terms.Texts[1].IsMinor, terms.Texts[1].From).ShouldBe((true, At.AddDays(9)));
        await Should.ThrowAsync<Exception>(() => PutAsync(new TermsPublished(put with { Version = 4 }, terms.Texts[1])));
        await PutAsync(new TermsWithdrawn("use", 2));
        (await TermsAsync())[0].ShouldSatisfyAllConditions(t => t.Texts.Count.ShouldBe(1), t => t.Version.ShouldBe(4));

        var member = Someone("said@terms.example", null, null);
        await PutAsync(new MemberAdded(member with { Said = [new Consented("use", 1, true)] }), new ConsentGiven(new Consent(member.Id, "use", 1, true, At,
            "de", "register")));
        (await Should.ThrowAsync<StoreRefusedException>(() => PutAsync(new TermsDropped("use")))).Problem.Code.ShouldBe("terms-evidence");
        var read = (await store.MemberAsync(member.Id, Stop)).ShouldNotBeNull();
        read.Said.ShouldBe([new Consented("use", 1, true)]);
        await PutAsync(
            new MemberSet(read with { Said = [new Consented("use", 2, false)], Version = 2 }, 1), new ConsentGiven(new Consent(member.Id, "use", 2, false,
                At, "en", "sign-in")));
        (await Second.MemberAsync(member.Id, Stop)).ShouldNotBeNull().Said.ShouldBe([new Consented("use", 2, false)]);
        (await store.ConsentsAsync(member.Id, 10, Stop)).Select(c => (c.Number, c.Agreed, c.Language)).ShouldBe([(2, false, "en"), (1, true, "de")]);
        (await store.ConsentFiguresAsync("use", Stop)).ShouldBe([new ConsentFigures(1, 1, 0), new ConsentFigures(2, 0, 1)]);
        await PutAsync(new MemberErased(member.Id, member.Email, "erased:x"));
        (await store.ConsentsAsync(member.Id, 10, Stop)).ShouldBeEmpty();
        await PutAsync(new TermsDropped("use"));
        (await TermsAsync()).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_directory_is_kept_as_it_was_set_and_closed()
    {
        await PutAsync(new DirectoryPut(new MemberDirectory(new Audience.Fact(FactKind.Group, "circle"), "Who", "Lead", ["town", "sky"], 1)));
        var there = MemberDirectory.Of(await PolicyAsync());
        (there.Audience?.ToString(), there.Title, there.Lead, there.Version).ShouldBe(("group:circle", "Who", "Lead", 1));
        there.Fields.ShouldBe(["town", "sky"]);
        await PutAsync(new DirectoryPut(new MemberDirectory(null, null, null, [], 2)));
        MemberDirectory.Of(await PolicyAsync()).Audience.ShouldBeNull();
    }

    [Fact]
    public async Task What_cannot_be_read_of_terms_and_directory_is_told_and_ends_nothing()
    {
        var put = new TermsPut("use", new Audience.Fact(FactKind.Group, "circle"), false, null, 1);
        await PutAsync(new TermsPublished(put, new TermsText(1, "Use", "One", null, At, false, null, At, "owner")));
        await PutAsync(new TermsPublished(put with { Version = 2 }, new TermsText(2, "Use", "Two", null, At, false, null, At, "owner")));
        await PutAsync(new DirectoryPut(new MemberDirectory(new Audience.Fact(FactKind.Group, "circle"), "Who", null, ["town"], 1)));
        var member = Someone("torn@terms.example", null, null);
        await PutAsync(new MemberAdded(member with { Said = [new Consented("use", 2, true)] }));
        foreach (var body in new[] { "{\"title\":", "[]", "null", "{}" })
        {
            await SqlAsync($"UPDATE terms_texts SET \"Body\" = '{body}' WHERE \"Number\" = 2");
            var torn = await store.LoadPolicyAsync(Stop);
            torn.Faults.ShouldHaveSingleItem().Kind.ShouldBe("terms");
            // The older version counts; whoever agreed to the newer one is asked nothing.
            var book = torn.Parts.Of<TermsBook>();
            book.All.ShouldHaveSingleItem().Texts.ShouldHaveSingleItem().Number.ShouldBe(1);
        }

        await SqlAsync("UPDATE terms SET \"Audience\" = 'group:'");
        await SqlAsync("UPDATE directory SET \"Audience\" = 'or or'");
        await SqlAsync("UPDATE members SET \"Said\" = '[{\"terms\":'");
        var spoilt = await store.LoadPolicyAsync(Stop);
        spoilt.Faults.Select(f => f.Kind).Order().ShouldBe(["directory", "terms", "terms"]);
        spoilt.Parts.Of<TermsBook>().All[0].Audience.ToString().ShouldBe("signed-in", "in doubt everybody is asked");
        spoilt.Parts.Of<MemberDirectory>().Audience.ShouldBeNull("in doubt nobody looks");
        (await store.MemberAsync(member.Id, Stop)).ShouldNotBeNull().Said.ShouldBeEmpty("in doubt they are asked again");
        await SqlAsync("UPDATE terms_texts SET \"Body\" = 'x'");
        (await store.LoadPolicyAsync(Stop)).Parts.Of<TermsBook>().All.ShouldBeEmpty();
    }

    [Fact]
    public async Task Whoever_is_found_in_the_directory_is_who_chose_to_be_against_a_plain_reading()
    {
        var random = new Random(7);
        var all = new List<(Member Member, string Town, string Sky, List<string>? Shown)>();
        for (var i = 0; i < 60; i++)
        {
            var (town, sky, isActive) = (Towns[random.Next(4)], random.Next(2) == 0 ? "m" : "p", random.Next(6) > 0);
            List<string>? shown = random.Next(3) == 0 ? null : [.. new[] { "town", "sky", "secret" }.Where(_ => random.Next(2) == 0)];
            var member = new Member(
                Guid.NewGuid(), $"porto{i}@moon.example", $"{Names[random.Next(4)]} {i}", $"lugo{i}", null,
                isActive ? MemberStatus.Active : MemberStatus.Suspended, [], At);
            await PutAsync(
                new MemberAdded(member), new AnswersSet(member.Id, [new("town", [town]), new("sky", [sky]), new("secret", ["porto"])]) { AreFirst = true },
                new ListingSet(member.Id, ["town"]), new ListingSet(member.Id, shown));
            all.Add((member, town, sky, isActive ? shown : null));
        }

        string[] fields = ["town", "sky"];
        foreach (var text in Sought)
        {
            var folded = Spelling.Folded(text);
            List<string> options = [.. new[] { ("m", "the moon"), ("p", "planets") }.Where(o => o.Item2.Contains(folded,
                StringComparison.Ordinal)).Select(o => "sky=" + o.Item1)];
            var found = await store.ListedAsync(new DirectoryQuery(fields, text, options), 0, 100, Stop);
            var plain = all.Where(a => a.Shown is not null && (Spelling.Folded(a.Member.Name).Contains(folded, StringComparison.Ordinal)
                || (a.Shown.Contains("town") && Spelling.Folded(a.Town).Contains(folded, StringComparison.Ordinal))
                || (a.Shown.Contains("sky") && (a.Sky.Contains(folded, StringComparison.Ordinal) || options.Contains("sky=" + a.Sky)))));
            found.Select(f => f.Member.Id).ShouldBe(plain.Select(p => p.Member.Id), true, text);
            foreach (var one in found)
            {
                one.Shown.Select(s => s.Field).ShouldBe(all.First(a => a.Member.Id == one.Member.Id).Shown!.Intersect(fields), true, text);
                (await store.ListedAsync(one.Member.Id, fields, Stop)).ShouldNotBeNull().Shown.Count.ShouldBe(one.Shown.Count);
            }
        }

        (await store.ListedCountAsync(Stop)).ShouldBe(all.Count(a => a.Shown is not null));
        var pages = new List<Guid>();
        for (var skip = 0; skip < 60; skip += 7)
        {
            pages.AddRange((await store.ListedAsync(new DirectoryQuery(fields, null, []), skip, 7, Stop)).Select(l => l.Member.Id));
        }

        pages.ShouldBe(all.Where(a => a.Shown is not null).Select(a => a.Member.Id), true);
        pages.ShouldBeUnique();
    }

    [Fact]
    public async Task Members_are_found_by_their_answers_and_earlier_requests_by_what_tells_people_apart()
    {
        var people = Enumerable.Range(0, 6).Select(i => Someone($"{i}@found.example", null,
            null) with
        { Name = i < 3 ? "Orla %Vane" : "Orla %Vane" + i }).ToList();
        for (var i = 0; i < people.Count; i++)
        {
            await PutAsync(
                new MemberAdded(people[i]), new AnswersSet(people[i].Id, [new("count", [$"{i}"]), new("town", [i % 2 == 0 ? "Évora" : "Porto"]), new("vat",
                    [i is 0 or 4 ? "PT5" : $"PT{i}x"])]),
                new RequestAdded(new JoinRequest(Guid.CreateVersion7(), people[i].Id, "trade", At.AddHours(i), RequestState.Declined)));
        }

        async Task<string> FoundAsync(params string[] filters) => string.Join("", (await store.MembersAsync(
            new MemberQuery(null, 50) { Answers = [.. filters.Select(f => AnswerFilter.Read(f).ShouldNotBeNull())] }, Stop)).Select(m => m.Email[0]));
        (await FoundAsync("count>=4")).ShouldBe("45");
        (await FoundAsync("count<=1")).ShouldBe("01");
        (await FoundAsync("count=3")).ShouldBe("3");
        (await FoundAsync("town:EVO")).ShouldBe("024");
        (await FoundAsync("town=porto")).ShouldBe("135");
        (await FoundAsync("town")).ShouldBe("012345");
        (await FoundAsync("else")).ShouldBe("");
        (await FoundAsync("*:pt5")).ShouldBe("045");
        (await FoundAsync("*=3")).ShouldBe("3");
        (await FoundAsync("town:o", "count>=2", "count<=4")).ShouldBe("234");
        (await FoundAsync("town=porto", "*:evora")).ShouldBe("");
        (await FoundAsync("vat", "count<=2", "*:evo")).ShouldBe("02");
        foreach (var odd in new[] { "", "=x", "town:", "town>=x", "to wn:x", "a>b" })
        {
            AnswerFilter.Read(odd).ShouldBeNull(odd);
        }

        var last = new RequestOf(new JoinRequest(Guid.CreateVersion7(), people[0].Id, "trade", At.AddDays(1), RequestState.Waiting), people[0]);
        var earlier = await store.EarlierAsync(last, [new FieldAnswer("vat", ["PT5"])], 10, Stop);
        earlier.Select(e => (e.Request.Member.Email[0], e.Same)).ShouldBe([('4', "vat"), ('2', "name"), ('1', "name"), ('0', "member")]);
    }

    private async Task<IReadOnlyList<TermsOfSite>> TermsAsync() => TermsBook.Of(await PolicyAsync()).All;

    private async Task<Policy> PolicyAsync()
    {
        var stored = await store.LoadPolicyAsync(stop: Stop);
        stored.Faults.ShouldBeEmpty();
        return Policy.Build([], [], [new(FactKind.Group, "circle", "Circle")], new SiteSettings(), stored.Parts).Value;
    }
}
