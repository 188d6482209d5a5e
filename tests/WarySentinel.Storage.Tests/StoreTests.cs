using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Storage.Tests;

public sealed class SqliteStoreTests() : StoreTests("sqlite");

public sealed class PostgresStoreTests() : StoreTests("postgres");

/// <summary>Written once, run on every provider.</summary>
public abstract class StoreTests(string provider) : OnProvider(provider)
{
    [Fact]
    public async Task What_is_stored_is_read_back()
    {
        var item = new Item(Id("product:moss"), "Moss “filter” ✓", [Id("category:filters")], [Address.Parse("/product/moss"), Address.Parse("/p/*")], 3);
        var gate = new Gate
        {
            Key = "g", Title = "G", Covers = [Selector.Parse("category:filters"), Selector.Parse("path:/x/**")],
            Audience = AudienceParser.Parse("role:dealer or (password and not guest)").Value,
            Acts = Acts.Price | Acts.Buy, Presence = Presence.Hidden, Answer = Answer.Redirect, RedirectTo = "/join", Message = "Words.", ItemOnly = true,
            Enabled = false,
            From = new DateTimeOffset(2026, 1, 2, 3, 4, 5, TimeSpan.Zero).AddTicks(7), UnlockFor = TimeSpan.FromHours(8), Version = 4,
        };
        await PutAsync(new ItemsPut([new Item(Id("category:filters"), "Filters", [], []), item]), new GatePut(gate),
            new FactDefinitionPut(new FactDefinition(FactKind.Role, "dealer", "Dealers")),
            new SettingsPut(new SiteSettings
            { SiteName = "Fernlight", StaffPasses = false, Paths = new PathRules(false), Look = new SiteLook { Links = [new SiteLink("/shop", "Shop")] } }));
        var read = await store.LoadPolicyAsync(Stop);
        read.Items.First(i => i.Id == item.Id).SaysTheSameAs(item).ShouldBeTrue();
        GateDraft.Of(read.Gates.ShouldHaveSingleItem()).ShouldBeEquivalentTo(GateDraft.Of(gate));
        read.Gates[0].From.ShouldBe(gate.From);
        read.Definitions.ShouldHaveSingleItem().Title.ShouldBe("Dealers");
        (read.Settings.SiteName, read.Settings.StaffPasses, read.Settings.Paths.IgnoreCase, read.Settings.Look.Links[0].Words)
            .ShouldBe(("Fernlight", false, false, "Shop"));
    }

    [Fact]
    public async Task An_edit_and_its_audit_entry_are_stored_together_or_not_at_all()
    {
        await store.ApplyAsync(new Edit("item.add", "page:a", [new ItemsPut([Page("a")])], "before", "after"), "owner@x.example", stop: Stop);
        var entry = (await store.AuditAsync(null, 10, stop: Stop)).ShouldHaveSingleItem();
        (entry.By, entry.Action, entry.Subject, entry.Before, entry.After).ShouldBe(("owner@x.example", "item.add", "page:a", "before", "after"));
        var revision = await store.RevisionAsync(Stop);
        var bad = new Edit("broken", "x", [new ItemsPut([Page("b")]), new SharedPasswordPut(Password("no-such-gate"))]);
        await Should.ThrowAsync<Exception>(() => store.ApplyAsync(bad, "x", stop: Stop));
        (await store.AuditAsync(null, 10, stop: Stop)).Count.ShouldBe(1);
        (await store.LoadPolicyAsync(Stop)).Items.ShouldHaveSingleItem();
        (await store.RevisionAsync(Stop)).ShouldBe(revision);
    }

    [Fact]
    public async Task An_edit_against_an_old_revision_is_turned_away()
    {
        var first = await PutAsync(new ItemsPut([Page("a")]));
        await PutAsync(new ItemsPut([Page("b")]));
        await Should.ThrowAsync<StoreMovedException>(() => store.ApplyAsync(new Edit("x", "x", [new ItemsPut([Page("c")])]), "x", first, stop: Stop));
    }

    [Fact]
    public async Task Writers_at_the_same_time_all_get_in_with_a_revision_each()
    {
        await PutAsync(new ItemsPut([Page("start")]));
        var revisions = await Task.WhenAll(Enumerable.Range(0, 12).Select(n => Task.Run(() => PutAsync(new ItemsPut([Page("w" + n)])))));
        revisions.Distinct().Count().ShouldBe(12);
        (await store.LoadPolicyAsync(Stop)).Items.Count.ShouldBe(13);
    }

    [Fact]
    public async Task Members_are_found_by_every_name_and_listed_in_pages()
    {
        for (var n = 0; n < 5; n++)
        {
            await PutAsync(new MemberAdded(Someone($"m{n}@x.example", n == 0 ? "first" : null, "dealer")));
        }

        (await store.MemberByNameAsync("first", Stop))!.Email.ShouldBe("m0@x.example");
        var member = (await store.MemberByNameAsync("m1@x.example", Stop)).ShouldNotBeNull();
        await PutAsync(new MemberSet(member with { Name = "Changed", Version = 2 }, 1));
        var after = (await store.MemberAsync(member.Id, Stop)).ShouldNotBeNull();
        (after.Name, after.Version).ShouldBe(("Changed", 2));
        after.Grants.ShouldHaveSingleItem().Kind.ShouldBe(FactKind.Role);
        (await store.MembersAsync(new MemberQuery("m1@x.example", 2, null), Stop)).Select(m => m.Email).ShouldBe(["m2@x.example", "m3@x.example"]);
        (await store.MembersAsync(new MemberQuery(null, 9, "CHANG"), Stop)).ShouldHaveSingleItem().Id.ShouldBe(member.Id);
        (await store.HoldersAsync(FactKind.Role, "dealer", Stop)).ShouldBe(5);
        await Should.ThrowAsync<Exception>(() => PutAsync(new MemberAdded(Someone("m1@x.example", null, "dealer"))));
    }

    [Fact]
    public async Task Members_with_the_same_facts_are_counted_together()
    {
        foreach (var (email, role) in new[] { ("a@x.example", "dealer"), ("b@x.example", "dealer"), ("c@x.example", "guide"), ("d@x.example", null) })
        {
            await PutAsync(new MemberAdded(Someone(email, null, role)));
        }

        await PutAsync(new MemberAdded(Someone("e@x.example", null, "dealer") with { Status = MemberStatus.Suspended }));
        var sets = await store.FactSetsAsync([(FactKind.Role, "dealer"), (FactKind.Role, "guide")], Stop);
        sets.ToDictionary(s => s.Visitor.Grants.Count == 0 ? "" : s.Visitor.Grants[0].Key, s => s.Members)
            .ShouldBe(new Dictionary<string, int> { ["dealer"] = 2, ["guide"] = 1, [""] = 1 }, ignoreOrder: true);
        sets.ShouldAllBe(s => s.Names!.Count == s.Members);
    }

    [Fact]
    public async Task Sessions_hold_unlocks_and_end_with_their_member_and_their_password()
    {
        var member = Someone("a@x.example", null, null);
        var gate = new Gate { Key = "vault", Title = "V", Covers = [Selector.Parse("site")], Audience = AudienceParser.Parse("password").Value };
        var password = Password("vault");
        await PutAsync(new MemberAdded(member), new GatePut(gate), new SharedPasswordPut(password));
        var now = DateTimeOffset.UtcNow;
        var session = new StoredSession(Guid.NewGuid(), SessionPurpose.Site, member.Id, null, now, now, now.AddDays(1), "127.0.0.1", "test", []);
        await store.BeginSessionAsync(session, null, Stop);
        await store.UnlockAsync(session.Id, [new StoredUnlock("vault", password.Id, now.AddDays(14))], now.AddDays(1), Stop);
        (await store.SessionAsync(session.Id, Stop))!.Unlocks.ShouldHaveSingleItem().Gate.ShouldBe("vault");
        (await store.UseAsync([password.Id], "net-1", Stop)).ShouldContain(password.Id);
        (await store.SharedPasswordAsync(password.Id, Stop))!.Uses.ShouldBe(1);
        (await store.SharedPasswordsByDigestAsync(password.Digest.Reveal(), Stop)).ShouldHaveSingleItem();
        await PutAsync(new SharedPasswordPut(password with { WithdrawnAt = now }));
        (await store.SessionAsync(session.Id, Stop))!.Unlocks.ShouldBeEmpty();
        await PutAsync(new SessionsEnded(member.Id));
        (await store.SessionAsync(session.Id, Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task What_a_gate_says_beside_its_rule_is_kept_too()
    {
        var gate = new Gate
        {
            Key = "g", Title = "G", Covers = [Selector.Parse("site")], Audience = AudienceParser.Parse("password").Value, PresenceBySite = true,
            UnlockFor = TimeSpan.Zero,
            Prompt = new PromptWords("Heading", null, "Label"), Link = new SiteLink("/join", "Join"),
            Rotation = new Rotation(TimeSpan.FromDays(30), TimeSpan.FromHours(5), ["a@x.example"]),
        };
        var redirect = new Core.Redirects.Redirect("home", Core.Redirects.RedirectOn.SignOut, AudienceParser.Parse("role:dealer or guest").Value, "/home", 7,
            true, 2);
        await PutAsync(new GatePut(gate), new RedirectPut(redirect));
        var stored = await store.LoadPolicyAsync(Stop);
        var read = stored.Gates.ShouldHaveSingleItem();
        (read.PresenceBySite, read.UnlockFor, read.Prompt, read.Link, read.Rotation).ShouldBe((true, TimeSpan.Zero, gate.Prompt, gate.Link, gate.Rotation));
        stored.Parts.Of<RedirectBook>().All.ShouldHaveSingleItem().ShouldBe(redirect);
        await PutAsync(new RedirectDropped("home"));
        (await store.LoadPolicyAsync(Stop)).Parts.Of<RedirectBook>().All.ShouldBeEmpty();
    }

    [Fact]
    public async Task The_last_use_of_a_password_is_had_once_and_networks_are_counted_once()
    {
        var gate = new Gate { Key = "vault", Title = "V", Covers = [Selector.Parse("site")], Audience = AudienceParser.Parse("password").Value };
        var password = Password("vault") with { MostUses = 3, Asked = AudienceParser.Parse("not role:dealer").Value, Replaces = Guid.NewGuid() };
        await PutAsync(new GatePut(gate), new SharedPasswordPut(password));
        var used = await Task.WhenAll(Enumerable.Range(0, 8).Select(n => store.UseAsync([password.Id], "net-" + (n % 2), Stop)));
        used.Count(u => u.Contains(password.Id)).ShouldBe(3);
        var read = (await store.SharedPasswordAsync(password.Id, Stop))!;
        (read.Uses, read.MostUses, read.Asked, read.Replaces).ShouldBe((3, 3, password.Asked, password.Replaces));
        (await store.PasswordNetworksAsync(Stop))[password.Id].ShouldBeInRange(1, 2);
        (await store.LoadPolicyAsync(Stop)).Parts.Of<PasswordAsks>().All.ShouldHaveSingleItem().Asked.ShouldBe(password.Asked);
    }

    [Fact]
    public async Task What_a_password_unlocked_ends_when_the_password_does()
    {
        var gate = new Gate { Key = "vault", Title = "V", Covers = [Selector.Parse("site")], Audience = AudienceParser.Parse("password").Value };
        var password = Password("vault");
        await PutAsync(new GatePut(gate), new SharedPasswordPut(password));
        var now = DateTimeOffset.UtcNow;
        var session = new StoredSession(Guid.NewGuid(), SessionPurpose.Passing, null, null, now, now, now.AddDays(1), null, null, []);
        await store.BeginSessionAsync(session, null, Stop);
        await store.UnlockAsync(session.Id, [new StoredUnlock("vault", password.Id, now.AddDays(300))], now.AddDays(300), Stop);
        await PutAsync(new SharedPasswordPut(password with { Until = now.AddDays(2) }));
        (await store.SessionAsync(session.Id, Stop))!.Unlocks.ShouldHaveSingleItem().Until.ShouldBe(now.AddDays(2));
    }

    [Fact]
    public async Task A_message_is_taken_by_one_and_its_text_is_gone_once_it_is_sent()
    {
        var now = DateTimeOffset.UtcNow;
        await PutAsync(new MessageQueued(new OutgoingMessage(Guid.NewGuid(), "a@x.example", "Subject", "sealed", now.AddSeconds(-5), "told", Urgency.Soon)));
        var taken = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => store.TakeMessageAsync(now.AddMinutes(5), Stop)));
        var mine = taken.OfType<WaitingMessage>().ShouldHaveSingleItem();
        (mine.To, mine.Body, mine.Tries).ShouldBe(("a@x.example", "sealed", 1));
        await store.MessageFailedAsync(mine, "no answer", now.AddSeconds(-1), Stop);
        (await store.TakeMessageAsync(now.AddMinutes(5), Stop)).ShouldNotBeNull().Tries.ShouldBe(2);
        await store.MessageSentAsync(mine with { Tries = 2 }, "250 taken", Stop);
        var state = (await store.MessagesAsync(10, stop: Stop)).ShouldHaveSingleItem();
        (state.State, state.Fault).ShouldBe((LetterState.Sent, null));
        (await store.TakeMessageAsync(now.AddMinutes(5), Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task A_letter_that_is_given_up_stays_in_sight_and_can_be_sent_again_or_dropped()
    {
        var now = DateTimeOffset.UtcNow;
        var letters = Enumerable.Range(0, 2).Select(n => new OutgoingMessage(Guid.NewGuid(), $"a{n}@x.example", "S", "sealed", now.AddDays(-9), "told",
            Urgency.Soon))
            .ToList();
        await PutAsync([.. letters.Select(l => new MessageQueued(l))]);
        foreach (var letter in letters)
        {
            await store.MessageFailedAsync(letter.AsTaken(), "550 no such user", null, Stop);
        }

        (await store.TakeMessageAsync(now.AddMinutes(5), Stop)).ShouldBeNull();
        (await store.MessagesAsync(10, LetterState.GivenUp, stop: Stop)).Count.ShouldBe(2);
        (await store.ResendAsync(letters[0].Id, "owner", Stop)).ShouldBeTrue();
        (await store.TakeMessageAsync(now.AddMinutes(5), Stop)).ShouldNotBeNull().Id.ShouldBe(letters[0].Id);
        await store.MessageSentAsync(letters[0].AsTaken(1), null, Stop);
        (await store.ResendAsync(letters[0].Id, "owner", Stop)).ShouldBeFalse("it is sent, and its text is gone");
        (await store.DropMessageAsync(letters[1].Id, "owner", Stop)).ShouldBeTrue();
        (await store.AuditAsync(null, 10, null, "letter.", Stop)).Select(a => a.Action).ShouldBe(["letter.drop", "letter.resend"]);
        (await store.TrimMessagesAsync(now.AddDays(1), Stop)).ShouldBe(1);
        (await store.MessagesAsync(10, stop: Stop)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_turn_is_taken_by_one_machine_and_comes_round_again()
    {
        var now = DateTimeOffset.UtcNow;
        var first = await Task.WhenAll(Enumerable.Range(0, 5).Select(_ => store.TakeTurnAsync("sweep", now.AddHours(-1), Stop)));
        first.Count(t => t).ShouldBe(1);
        (await store.TakeTurnAsync("sweep", now.AddHours(-1), Stop)).ShouldBeFalse();
        (await store.TakeTurnAsync("sweep", now.AddHours(1), Stop)).ShouldBeTrue();
    }

    [Fact]
    public async Task Sweeps_are_kept_newest_first_and_not_for_ever()
    {
        var now = DateTimeOffset.UtcNow;
        for (var n = 0; n < 53; n++)
        {
            await store.KeepSweepAsync(new StoredSweep(Guid.NewGuid(), now.AddMinutes(n), now.AddMinutes(n), "me", n, "{}"), Stop);
        }

        var kept = await store.SweepsAsync(100, Stop);
        (kept.Count, kept[0].Leaks).ShouldBe((50, 52));
    }

    [Fact]
    public async Task What_a_sweep_notes_is_kept_until_it_ends_or_another_begins()
    {
        (await store.UnfinishedSweepAsync(Stop)).ShouldBeNull();
        var (one, two) = (Guid.CreateVersion7(), Guid.CreateVersion7());
        await store.BeginSweepAsync(new StoredSweepPart(one, 0, 0, [1]), Stop);
        await store.KeepSweepPartAsync(new StoredSweepPart(one, 2, 300, [3, 4]), Stop);
        await store.KeepSweepPartAsync(new StoredSweepPart(one, 1, 400, [2]), Stop);
        var left = (await store.UnfinishedSweepAsync(Stop)).ShouldNotBeNull();
        (left.First.Sweep, left.First.Body[0], left.Notes).ShouldBe((one, (byte)1, 700));
        (await store.SweepPartsAsync(one, Stop).Select(p => p.Body[0]).ToListAsync(Stop)).ShouldBe(new byte[] { 2, 3 });

        await store.BeginSweepAsync(new StoredSweepPart(two, 0, 0, [9]), Stop);
        (await store.UnfinishedSweepAsync(Stop)).ShouldNotBeNull().First.Sweep.ShouldBe(two);
        (await store.SweepPartsAsync(one, Stop).AnyAsync(Stop)).ShouldBeFalse();
        var now = DateTimeOffset.UtcNow;
        await store.KeepSweepAsync(new StoredSweep(two, now, now, "me", 0, "{}"), Stop);
        (await store.UnfinishedSweepAsync(Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task An_edit_of_many_things_is_on_record_under_each_of_their_names()
    {
        var note = new Edit("gate.set", "g", [], "before", "after") { Detail = """{"before":{"a":1},"after":{"a":2}}""" };
        await store.ApplyAsync(new Edit("apply", "site", [new FactDefinitionPut(new FactDefinition(FactKind.Role, "x", "X"))]) { Notes = [note] }, "me",
            stop: Stop);
        (await store.AuditAsync(null, 10, "site", null, Stop)).ShouldHaveSingleItem();
        (await store.AuditAsync(null, 10, "g", "gate.", Stop)).ShouldHaveSingleItem().Detail.ShouldBe(note.Detail);
        (await store.AuditAsync(null, 10, "g", "item.", Stop)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Items_are_dropped_together()
    {
        await PutAsync(new ItemsPut([.. Enumerable.Range(0, 4500).Select(n => new Item(Id($"page:p{n}"), "P", [], []))]));
        await PutAsync(new ItemsDropped([.. Enumerable.Range(0, 4499).Select(n => Id($"page:p{n}"))]));
        (await store.LoadPolicyAsync(Stop)).Items.ShouldHaveSingleItem().Id.ShouldBe(Id("page:p4499"));
    }

    [Fact]
    public async Task Sessions_that_are_over_are_swept()
    {
        var now = DateTimeOffset.UtcNow;
        await store.BeginSessionAsync(
            new StoredSession(Guid.NewGuid(), SessionPurpose.Site, null, null, now.AddDays(-2), now, now.AddDays(-1), null, null, []), null, Stop);
        await store.BeginSessionAsync(new StoredSession(Guid.NewGuid(), SessionPurpose.Site, null, null, now, now, now.AddDays(1), null, null, []), null, Stop);
        (await store.SweepSessionsAsync(Stop)).ShouldBe(1);
        (await store.SessionsAsync(null, 10, Stop)).Count.ShouldBe(1);
    }

    [Fact]
    public async Task Migrating_again_changes_nothing()
    {
        await PutAsync(new ItemsPut([Page("a")]));
        await store.MigrateAsync(null, Stop);
        (await store.LoadPolicyAsync(Stop)).Items.Count.ShouldBe(1);
        (await store.HealthAsync(Stop)).ShouldBe(StoreHealth.Good);
    }
}
