using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;
using static WarySentinel.Cli.People.MemberVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary organisation list|show|add|set|give|take|end|remove|join|leave|invite|remind|withdraw</c>.</summary>
internal static class OrganisationVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The organisation's key." };
    private static readonly Argument<string> Person = new("email") { Description = "The person's e-mail address." };
    private static readonly Argument<string> Fact = new("fact")
    { Description = "role:, group: or plan: with a key, or bought: with an item. All its people hold it." };
    private static readonly Option<string?> Search = new("--search") { Description = "Any part of a title or key." };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it." };
    private static readonly Option<int?> Seats = new("--seats") { Description = "So many people at most, those who are invited included." };
    private static readonly Option<string[]> Gives = new("--give")
    { Description = "What its people hold, such as group:schools; several: repeat.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> Until = new("--until")
    { Description = "When it ends: a day of the site's time zone, or a moment; none for never." };
    private static readonly Option<string?> From = new("--from") { Description = "When its people begin to hold it. At once unless said." };
    private static readonly Option<bool> Manager = new("--manager") { Description = "They invite and remove others, up to its seats." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Do not ask." };

    public static Command Build()
    {
        var all = new Command("organisation", "Customers with several people who sign in: what they are given, who belongs to them.");
        all.Subcommands.Add(With(new Command("list", "Organisations."), Search).Does(ListAsync));
        all.Subcommands.Add(With(new Command("show", "One organisation: what it is given, its people, who is asked to join."), Key).Does(ShowAsync));
        all.Subcommands.Add(With(With(new Command("add", "Add an organisation."), Key), Title, Seats, Until, Gives).Does(AddAsync));
        all.Subcommands.Add(With(With(new Command("set", "Change an organisation; what is not said stays."), Key), Title, Seats, Until).Does(SetAsync));
        all.Subcommands.Add(With(With(With(
            new Command("give", "Give it a fact, or other dates to one; all its people hold it."), Key), Fact), From, Until).Does(GiveAsync));
        all.Subcommands.Add(With(With(new Command("take", "Take a fact away from it, and from all its people."), Key), Fact).Does(TakeAsync));
        all.Subcommands.Add(With(new Command("end", "End it now: its people keep their accounts, and hold through it no more."), Key).Does(EndAsync));
        all.Subcommands.Add(With(With(new Command("remove", "Remove it with what it invited; its people keep their accounts."), Key), Yes).Does(RemoveAsync));
        all.Subcommands.Add(With(With(With(
            new Command("join", "Somebody with an account belongs to it; said again, makes them a manager or no longer one."), Key), Person), Manager)
            .Does(JoinAsync));
        all.Subcommands.Add(With(With(new Command("leave", "Somebody belongs to it no longer."), Key), Person).Does(LeaveAsync));
        all.Subcommands.Add(With(With(With(new Command("invite", "Ask somebody to join, by a letter with a link."), Key), Person), Manager).Does(InviteAsync));
        all.Subcommands.Add(With(With(new Command("remind", "Write again to somebody who was asked."), Key), Person).Does(RemindAsync));
        all.Subcommands.Add(With(With(new Command("withdraw", "Take an invitation back."), Key), Person).Does(WithdrawAsync));
        return all;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var found = new List<OrganisationView>();
        await foreach (var one in call.Client.AllAsync<OrganisationView>(SentinelClient.OrganisationsPath(call.Get(Search)), int.MaxValue, call.Stop))
        {
            found.Add(one);
        }

        return call.Out.Table(found, "No such organisations.", ("key", o => o.Key), ("title", o => o.Title), ("seats", o => $"{o.Taken} of {o.Seats}"),
            ("gives", o => string.Join(", ", o.Facts.Select(f => f.Fact))), ("until", Ends));
    }

    private static async Task<int> ShowAsync(Call call) => Print(call, (await call.Client.OrganisationAsync(call.Get(Key), call.Stop)).Value);

    private static async Task<int> AddAsync(Call call) => Print(call, await call.Client.AddOrganisationAsync(
        new OrganisationDraft(call.Get(Key), call.Get(Title) ?? call.Get(Key), call.Get(Seats) ?? 1, Given(call.Get(Until), null),
            [.. call.Many(Gives).Select(f => new OrganisationFactDraft(f))]), call.Stop));

    private static Task<int> SetAsync(Call call) => ChangeAsync(call, draft => draft with
    {
        Title = call.Get(Title) ?? draft.Title,
        Seats = call.Get(Seats) ?? draft.Seats,
        Until = Given(call.Get(Until), draft.Until),
    });

    private static Task<int> GiveAsync(Call call) => ChangeAsync(call, draft => draft with
    {
        Facts =
        [
            .. draft.Facts!.Where(f => f.Fact != call.Get(Fact)),
            new OrganisationFactDraft(call.Get(Fact), Given(call.Get(From), null), Given(call.Get(Until), null)),
        ],
    });

    private static async Task<int> TakeAsync(Call call)
    {
        var (one, _) = await call.Client.OrganisationAsync(call.Get(Key), call.Stop);
        if (one.Facts.All(f => f.Fact != call.Get(Fact)))
        {
            await Console.Error.WriteLineAsync($"wary: {one.Title} is not given {call.Get(Fact)}.");
            return Exit.NotFound;
        }

        return await ChangeAsync(call, draft => draft with { Facts = [.. draft.Facts!.Where(f => f.Fact != call.Get(Fact))] });
    }

    private static async Task<int> ChangeAsync(Call call, Func<OrganisationDraft, OrganisationDraft> change)
    {
        var (one, tag) = await call.Client.OrganisationAsync(call.Get(Key), call.Stop);
        var now = new OrganisationDraft(one.Key, one.Title, one.Seats, one.Until?.ToString("O"),
            [.. one.Facts.Select(f => new OrganisationFactDraft(f.Fact, f.From?.ToString("O"), f.Until?.ToString("O")))]);
        return Print(call, await call.Client.SetOrganisationAsync(one.Key, change(now), tag!, call.Stop));
    }

    private static async Task<int> EndAsync(Call call) => Print(call, await call.Client.EndOrganisationAsync(call.Get(Key), call.Stop));

    private static async Task<int> RemoveAsync(Call call)
    {
        var one = (await call.Client.OrganisationAsync(call.Get(Key), call.Stop)).Value;
        if (!call.Get(Yes) && !Typed.Agrees($"Remove {one.Title}, with {one.Taken} seats taken?"))
        {
            await Console.Error.WriteLineAsync("wary: nothing is removed. --yes removes without asking.");
            return Exit.No;
        }

        await call.Client.RemoveOrganisationAsync(one.Key, call.Stop);
        return call.Out.Say(new { removed = one.Key }, $"Removed [bold]{Markup.Escape(one.Title)}[/].");
    }

    private static async Task<int> JoinAsync(Call call) =>
        Print(call, await call.Client.JoinOrganisationAsync(call.Get(Key), call.Get(Person), call.Get(Manager), call.Stop));

    private static async Task<int> LeaveAsync(Call call) => Print(call, await call.Client.LeaveOrganisationAsync(call.Get(Key), call.Get(Person), call.Stop));

    private static async Task<int> InviteAsync(Call call)
    {
        var asked = await call.Client.InviteAsync(call.Get(Key), call.Get(Person), call.Get(Manager), call.Stop);
        return call.Out.Say(asked, $"Asked [bold]{Markup.Escape(asked.Email)}[/] to join; the link in the letter works until {Day(asked.Until)}.");
    }

    private static async Task<int> RemindAsync(Call call)
    {
        if (await FindAsync(call) is not { } there)
        {
            return Missing(call);
        }

        var asked = await call.Client.RemindAsync(call.Get(Key), there.Id, call.Stop);
        return call.Out.Say(asked, $"Wrote to [bold]{Markup.Escape(asked.Email)}[/] again; only the new link works, until {Day(asked.Until)}.");
    }

    private static async Task<int> WithdrawAsync(Call call)
    {
        if (await FindAsync(call) is not { } there)
        {
            return Missing(call);
        }

        await call.Client.WithdrawAsync(call.Get(Key), there.Id, call.Stop);
        return call.Out.Say(new { withdrawn = there.Id }, $"Took the invitation of [bold]{Markup.Escape(there.Email)}[/] back.");
    }

    private static async Task<OrganisationInvitationView?> FindAsync(Call call) =>
        (await call.Client.OrganisationAsync(call.Get(Key), call.Stop)).Value.Invitations!
            .FirstOrDefault(i => i.Email.Equals(call.Get(Person).Trim(), StringComparison.OrdinalIgnoreCase));

    private static int Missing(Call call)
    {
        Console.Error.WriteLine($"wary: nobody with the address {call.Get(Person)} is asked to join.");
        return Exit.NotFound;
    }

    private static string? Given(string? said, string? otherwise) => said is null ? otherwise : said == "none" ? null : said;

    private static string Ends(OrganisationView one) => one.Until is not { } until ? "for good" : (one.Over ? "ended " : "") + LastDay(until);

    /// <summary>The last day that counts.</summary>
    private static string LastDay(DateTimeOffset until) => Day(until.AddTicks(-1));

    private static int Print(Call call, OrganisationView one) => call.Out.Give(one, to =>
    {
        void Line(string name, string text) => to.MarkupLine($"[grey]{name,-8}[/] {Markup.Escape(text)}");
        to.MarkupLine($"[bold]{Markup.Escape(one.Title)}[/] [grey]{Markup.Escape(one.Key)}[/]");
        Line("seats", $"{one.Taken} of {one.Seats} taken");
        Line("until", Ends(one));
        foreach (var fact in one.Facts)
        {
            var dates = (fact.From is { } from ? $", from {Day(from)}" : "") + (fact.Until is { } until ? $", until {LastDay(until)}" : "");
            Line("gives", fact.Fact + dates);
        }

        foreach (var person in one.People ?? [])
        {
            Line(person.Manages ? "manager" : "person", $"{person.Name} <{person.Email}>, since {Day(person.JoinedAt)}"
                + (person.Status == "active" ? "" : $", {person.Status}"));
        }

        foreach (var asked in one.Invitations ?? [])
        {
            Line("invited", $"{asked.Email}, written to on {Day(asked.SentAt)}{(asked.Until <= DateTimeOffset.UtcNow ? ", the link has run out" : "")}");
        }
    });
}
