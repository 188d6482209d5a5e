using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteAccountTests() : AccountTests("sqlite");

public sealed class PostgresAccountTests() : AccountTests("postgres");

/// <summary>What becomes of one member's account, and of what is known of them.</summary>
public abstract class AccountTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Now = new(2026, 11, 20, 12, 0, 0, TimeSpan.Zero);

    [Fact]
    public async Task How_an_account_came_to_stand_is_read_back()
    {
        var nell = Someone("nell@x.example", null, null);
        await PutAsync(new MemberAdded(nell));
        await DoAsync(AccountCommands.SetStatus(nell, MemberStatus.Suspended, " Come by. \nWe talk. ", "owner@x.example", Now));
        var read = await store.MemberAsync(nell.Id, Stop);
        read!.Status.ShouldBe(MemberStatus.Suspended);
        read.Cause.ShouldBe(new StatusCause(Now, "owner@x.example", "Come by. \nWe talk."));
        AccountCommands.SetStatus(read, MemberStatus.Suspended, null, "other", Now.AddDays(1)).Value.ToStore.Changes.ShouldBeEmpty();
        await DoAsync(AccountCommands.SetStatus(read, MemberStatus.Active, null, "other", Now.AddDays(1)));
        (await store.MemberByNameAsync("nell@x.example", Stop))!.Cause.ShouldBe(new StatusCause(Now.AddDays(1), "other", null));
    }

    [Fact]
    public async Task Who_is_erased_leaves_no_trace_of_who_they_were()
    {
        var nell = Someone("nell@x.example", "nell", "editor") with { Grants = [Held("role", "editor"), Held("plan", "patron")] };
        var other = Someone("other@x.example", null, null);
        await PutAsync(new MemberAdded(nell), new MemberAdded(other));
        await store.BeginSessionAsync(new StoredSession(Guid.NewGuid(), SessionPurpose.Site, nell.Id, null, Now, Now, Now.AddYears(5), null, null, []), null,
            Stop);
        (await store.MemberAsync(nell.Id, Stop))!.SeenAt.ShouldBe(Now);
        await DoAsync(AccountCommands.Note(nell, "Owes us a lens.", 0, "owner@x.example", Now));
        await DoAsync(AccountCommands.Note(other, "Met at the fair.", 0, "nell@x.example (Her token)", Now));
        await PutAsync(new MessageQueued(new OutgoingMessage(Guid.CreateVersion7(), "nell@x.example", "Hello Nell", "sealed", Now, "told", Urgency.Soon)));
        await PutAsync(new LinkAdded(
            new SingleUseLink(Guid.CreateVersion7(), LinkPurpose.NewAddress, "digest", nell.Id, "nell.new@x.example", Now, Now.AddDays(1))));
        await store.ApplyAsync(new Edit("gate.set", "vault", [new NoteAdded(new MemberNote(Guid.NewGuid(), other.Id, Now, "x", "y"))]), "nell@x.example",
            stop: Stop);
        var noted = new NoteAdded(new MemberNote(Guid.NewGuid(), other.Id, Now, "x", "y"));
        var sentence = new Edit("gate.set", "vault", [noted], "All.", "Only nell@x.example may.");
        await store.ApplyAsync(sentence, "owner@x.example", stop: Stop);
        var there = (await store.AuditAsync(null, 100, stop: Stop)).Count;

        await DoAsync(AccountCommands.Erase(Policy.Empty, await store.MemberAsync(nell.Id, Stop), Now));

        (await store.MemberAsync(nell.Id, Stop)).ShouldBeNull();
        (await store.MemberByNameAsync("nell", Stop)).ShouldBeNull();
        (await store.SessionsAsync(nell.Id, 10, Stop)).ShouldBeEmpty();
        (await store.NotesAsync(nell.Id, Stop)).ShouldBeEmpty();
        (await store.MessagesAsync(10, stop: Stop)).ShouldBeEmpty();
        (await store.LinksOfAsync(nell.Id, 10, Stop)).ShouldBeEmpty("not even to an address that she only asked for");
        var trail = await store.AuditAsync(null, 100, stop: Stop);
        // What was done and when stays, and so does how much of it there was.
        trail.Count.ShouldBe(there + 1);
        trail[0].Action.ShouldBe("member.erase");
        string.Join('\n', trail).ShouldNotContain("nell", Case.Insensitive);
        trail.ShouldContain(a => a.Before == "All." && a.After == $"Only {AccountCommands.TagOf(nell.Id)} may.");
        (await store.NotesAsync(other.Id, Stop)).Select(n => n.By).ShouldContain(AccountCommands.TagOf(nell.Id));
        (await store.MembersAsync(new MemberQuery(null, 10, "nell"), Stop)).ShouldBeEmpty();
        // Whoever comes next under that address is somebody else.
        await PutAsync(new MemberAdded(Someone("nell@x.example", "nell", null)));
    }

    [Fact]
    public async Task Whose_address_only_ends_or_begins_the_same_stays_in_the_trail()
    {
        var ell = Someone("ell@x.example", null, null);
        await PutAsync(new MemberAdded(ell), new MemberAdded(Someone("nell@x.example", null, null)));
        string[] others = ["nell@x.example", "n.ell@x.example", "a-ell@x.example", "ell@x.example.org", "ell@x.examples", "o+ell@x.example"];
        foreach (var other in others)
        {
            var note = new NoteAdded(new MemberNote(Guid.NewGuid(), ell.Id, Now, "x", "y"));
            var said = new Edit("gate.set", "vault", [note], $"Only {other}.", $"(member:ell@x.example or member:{other})");
            await store.ApplyAsync(said, "owner@x.example", stop: Stop);
        }

        await DoAsync(AccountCommands.Erase(Policy.Empty, await store.MemberAsync(ell.Id, Stop), Now));
        var trail = (await store.AuditAsync(null, 100, action: "gate.set", stop: Stop)).Reverse().ToList();
        trail.Select(a => a.Before).ShouldBe(others.Select(o => $"Only {o}."));
        trail.Select(a => a.After).ShouldBe(others.Select(o => $"(member:{AccountCommands.TagOf(ell.Id)} or member:{o})"));
    }

    [Fact]
    public async Task The_last_owner_is_not_erased_however_many_ask_at_once()
    {
        var owners = Enumerable.Range(0, 4).Select(n => Someone($"o{n}@x.example", null, "owner")).ToList();
        await PutAsync([.. owners.Select(o => new MemberAdded(o))]);
        var came = await Task.WhenAll(owners.Select(async (o, n) =>
        {
            try
            {
                var edit = AccountCommands.Erase(Policy.Empty, await store.MemberAsync(o.Id, Stop), DateTimeOffset.UtcNow).Value.ToStore;
                await (n % 2 == 0 ? store : Second).ApplyAsync(edit, "by", stop: Stop);
                return true;
            }
            catch (StoreRefusedException refused)
            {
                refused.Problem.Code.ShouldBe("last-owner");
                return false;
            }
        }));
        came.Count(erased => !erased).ShouldBe(1);
        (await store.ActiveWithRoleAsync("owner", Stop)).Count.ShouldBe(1);
    }

    private async Task DoAsync<T>(Outcome<Edit<T>> edit) => await store.ApplyAsync(edit.Value.ToStore, "owner@x.example", stop: Stop);
}
