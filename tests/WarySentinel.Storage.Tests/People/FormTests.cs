using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteFormTests() : FormTests("sqlite");

public sealed class PostgresFormTests() : FormTests("postgres");

/// <summary>Forms, what people answer, and their requests, as they are kept.</summary>
public abstract class FormTests(string provider) : OnProvider(provider)
{
    private const int Rounds = 40;
    private static readonly string[] Keys = ["company", "country", "branches"];

    [Fact]
    public async Task Answers_are_as_they_were_set_last_whoever_sets_them_where()
    {
        var people = Enumerable.Range(0, 3).Select(i => Someone($"{i}@answers.example", null, null)).ToList();
        await PutAsync([.. people.Select(p => new MemberAdded(p))]);
        var (random, book) = (new Random(7), new Dictionary<(Guid, string), IReadOnlyList<string>>());
        for (var round = 0; round < Rounds; round++)
        {
            var who = people[random.Next(3)].Id;
            List<FieldAnswer> set = [.. Keys.Where(_ => random.Next(2) == 0).Select(k => new FieldAnswer(
                k, [.. Enumerable.Range(0, random.Next(4)).Select(_ => random.Next(3) switch { 0 => "12.5", 1 => new string('ü', 900), _ => "İ😀\nb" })]))];
            await (random.Next(2) == 0 ? store : Second).ApplyAsync(new Edit("t", "t", [new AnswersSet(who, set)]), "t", stop: Stop);
            set.ForEach(a => book[(who, a.Field)] = a.Values);
            var there = await store.AnswersAsync([.. people.Select(p => p.Id)], Stop);
            foreach (var person in people)
            {
                var expected = book.Where(b => b.Key.Item1 == person.Id && b.Value.Count > 0).OrderBy(b => b.Key.Item2, StringComparer.Ordinal).ToList();
                var read = there.GetValueOrDefault(person.Id) ?? [];
                read.Select(a => a.Field).ShouldBe(expected.Select(e => e.Key.Item2));
                read.SelectMany(a => a.Values).ShouldBe(expected.SelectMany(e => e.Value));
            }
        }

        (await store.AnsweredAsync("company", Stop)).ShouldBe(book.Count(b => b.Key.Item2 == "company" && b.Value.Count > 0));
        await store.ApplyAsync(new Edit("t", "t", [new AnswersErased("company")]), "t", stop: Stop);
        (await store.AnsweredAsync("company", Stop)).ShouldBe(0);
    }

    [Fact]
    public async Task A_file_stays_while_it_is_the_answer_and_goes_with_it_and_with_its_member()
    {
        var member = Someone("file@answers.example", null, null);
        AnswerFile File(string name) => new(Guid.CreateVersion7(), member.Id, "proof", name, "txt", "words"u8.ToArray(), DateTimeOffset.UtcNow);
        var (one, two) = (File("one.txt"), File("two.txt"));
        await PutAsync(new MemberAdded(member), new AnswersSet(member.Id, [new("proof", [one.Id.ToString("N")])]), new FileKept(one));
        (await store.FileAsync(member.Id, one.Id, Stop)).ShouldNotBeNull().Content.ToArray().ShouldBe("words"u8.ToArray());
        (await store.FileAsync(Guid.NewGuid(), one.Id, Stop)).ShouldBeNull("only beneath its own member");
        await PutAsync(new AnswersSet(member.Id, [new("proof", [two.Id.ToString("N")])]), new FileKept(two));
        (await store.FilesAsync(member.Id, Stop)).Select(f => f.Name).ShouldBe(["two.txt"]);
        await PutAsync(new MemberErased(member.Id, member.Email, "erased:x"));
        (await store.FilesAsync(member.Id, Stop)).ShouldBeEmpty();
        (await store.AnswersAsync(member.Id, Stop)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Requests_are_listed_by_state_page_by_page_and_two_who_decide_at_once_meet()
    {
        var states = Enum.GetValues<RequestState>();
        var made = new List<JoinRequest>();
        for (var i = 0; i < 30; i++)
        {
            var member = Someone($"{i}@requests.example", null, null);
            var request = new JoinRequest(Guid.CreateVersion7(), member.Id, "trade", DateTimeOffset.UtcNow, states[i % states.Length])
            {
                Grants = [new RequestGrant(FactKind.Role, "dealer", 30, true)], Signs = [new Sign("quick", "2.5")], NeedsApproval = i % 2 == 0,
                Network = "192.0.2." + (i % 3), Domain = "requests.example", Words = i % 4 == 0 ? "Who are you?" : null,
            };
            await PutAsync(new MemberAdded(member), new RequestAdded(request));
            made.Add(request);
        }

        RequestState[] wanted = [RequestState.Waiting, RequestState.Held];
        var (read, after) = (new List<JoinRequest>(), (Guid?)null);
        while (await Second.RequestsAsync(wanted, after, 3, Stop) is { Count: > 0 } page)
        {
            read.AddRange(page.Select(r => r.Request));
            after = page[^1].Request.Id;
        }

        read.Select(r => r.Id).ShouldBe(made.Where(r => wanted.Contains(r.State)).OrderBy(r => r.Id.ToString(), StringComparer.Ordinal).Select(r => r.Id));
        (await store.RequestCountAsync(wanted, Stop)).ShouldBe(made.Count(r => wanted.Contains(r.State)));
        var first = (await store.RequestAsync(made[0].Member, Stop)).ShouldNotBeNull();
        (first.Grants.Single(), first.Signs.Single(), first.NeedsApproval, first.Network, first.Words).ShouldBe(
            (made[0].Grants[0], made[0].Signs[0], true, "192.0.2.0", "Who are you?"));
        (await store.RequestsLatelyAsync("192.0.2.1", "requests.example", DateTimeOffset.UtcNow.AddHours(-1), Stop)).ShouldBe((10, 30));
        (await store.RequestsLatelyAsync("192.0.2.1", "requests.example", DateTimeOffset.UtcNow.AddHours(1), Stop)).ShouldBe((0, 0));
        (await store.NetworksAsync(["192.0.2.1", "198.51.100.1"], DateTimeOffset.UtcNow.AddHours(-1), Stop)).ShouldBe(
            new Dictionary<string, int> { ["192.0.2.1"] = 10 });
        (await store.RequestsFromAsync("192.0.2.0", first.Id, DateTimeOffset.UtcNow.AddHours(-1), 100, Stop)).Count.ShouldBe(9);
        var decided = first with { State = RequestState.Approved, Version = 2 };
        await PutAsync(new RequestSet(decided, 1));
        await Should.ThrowAsync<StoreMovedException>(() => Second.ApplyAsync(new Edit("t", "t", [new RequestSet(decided, 1)]), "t", stop: Stop));
    }

    [Fact]
    public async Task A_form_that_cannot_be_read_is_closed_and_told_of_and_the_others_stand()
    {
        await PutPolicyAsync(
            new FieldPut(new FieldDraft { Key = "company", Label = "Company" }, 1), new FieldPut(new FieldDraft { Key = "lost", Label = "Lost" }, 1),
            new FormPut(new FormDraft { Key = "good", Title = "Good", Sections = [new() { Fields = [new("company")] }] }, 4),
            new FormPut(new FormDraft { Key = "bad", Title = "Bad", Sections = [new() { Fields = [new("lost")] }] }, 1),
            new FormPut(new FormDraft { Key = "torn", Title = "Torn" }, 1));
        await SqlAsync("""UPDATE "fields" SET "Body" = '{"kind":' WHERE "Key" = 'lost'""");
        await SqlAsync("""UPDATE "forms" SET "Body" = '[1' WHERE "Key" = 'torn'""");
        var stored = await store.LoadPolicyAsync(Stop);
        var book = stored.Parts.Of<FormBook>();
        book.Forms.Select(f => (f.Key, f.Version)).ShouldBe([("good", 4)]);
        book.Find("bad").ShouldBeNull();
        book.Find("torn").ShouldBeNull();
        stored.Faults.Where(f => f.Kind is "field" or "form").Select(f => f.Key).Order().ShouldBe(["bad", "lost", "torn"]);
        // What stands there can be written over and dropped.
        await PutPolicyAsync(new FormPut(new FormDraft { Key = "torn", Title = "Mended" }, 2), new FormDropped("bad"));
        (await store.LoadPolicyAsync(Stop)).Parts.Of<FormBook>().Forms.Select(f => f.Key).ShouldBe(["good", "torn"]);
    }

    [Fact]
    public async Task A_form_gives_what_a_fact_is_called_by_now()
    {
        await PutPolicyAsync(new FormPut(new FormDraft { Key = "f", Title = "F", Grants = [new("group:dealers"), new("role:guide")] }, 1));
        await PutPolicyAsync(new FactReplaced(FactKind.Group, "dealers", new Audience.Fact(FactKind.Group, "traders")));
        (await store.LoadPolicyAsync(Stop)).Parts.Of<FormBook>().Forms[0].Grants.Select(g => g.Fact).ShouldBe(["group:traders", "role:guide"]);
    }

    private async Task PutPolicyAsync(params Change[] changes) => await store.ApplyAsync(new Edit("t", "t", changes), "t", stop: Stop);
}
