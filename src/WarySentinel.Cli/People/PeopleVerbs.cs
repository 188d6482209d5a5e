using System.CommandLine;
using Spectre.Console;
using WarySentinel.Cli.Access;
using WarySentinel.Client;
using static WarySentinel.Cli.Access.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary member list|show|add|suspend|reinstate|roles</c>.</summary>
internal static class MemberVerbs
{
    private static readonly Argument<string> Email = new("email") { Description = "The e-mail address." };
    private static readonly Option<string?> Name = new("--name") { Description = "The name to be greeted by." };
    private static readonly Option<string?> UserName = new("--user-name") { Description = "A second name to sign in with." };
    private static readonly Option<string?> Password = new("--password")
    { Description = "The password; - reads it from standard input. Left out, the member is invited." };
    private static readonly Option<string[]> Roles = new("--role") { Description = "Roles.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string[]> Groups = new("--group") { Description = "Groups.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string[]> Plans = new("--plan") { Description = "Plans.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> Search = new("--search") { Description = "Only with this in name or address." };
    private static readonly Option<int> Most = new("--most") { Description = "At most so many.", DefaultValueFactory = _ => 1000 };

    public static Command Build()
    {
        var member = new Command("member", "People with an account.");
        member.Subcommands.Add(With(new Command("list", "Members."), Search, Most).Does(ListAsync));
        member.Subcommands.Add(With(new Command("show", "One member."), Email).Does(ShowAsync));
        member.Subcommands.Add(With(With(new Command("add", "Add a member."), Email), Name, UserName, Password, Roles, Groups, Plans).Does(AddAsync));
        member.Subcommands.Add(With(new Command("suspend", "Keep a member out for now: signed out at once, a guest to every gate."), Email)
            .Does(call => StatusAsync(call, "suspended")));
        member.Subcommands.Add(With(new Command("reinstate", "Let a suspended member back in."), Email).Does(call => StatusAsync(call, "active")));
        member.Subcommands.Add(With(With(new Command("roles", "Give a member exactly these roles."), Email), Roles).Does(RolesAsync));
        return member;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var members = new List<Member>();
        var search = call.Get(Search);
        await foreach (var member in call.Client.AllAsync<Member>("members" + (search is null ? "" : "?search=" + Uri.EscapeDataString(search)),
            Math.Max(1, call.Get(Most)), call.Stop))
        {
            members.Add(member);
        }

        return call.Out.Table(members, "No such members.", ("e-mail", m => m.Email), ("name", m => m.Name), ("status", m => m.Status),
            ("holds", m => Held(m, "")));
    }

    private static async Task<int> ShowAsync(Call call) => Print(call, (await call.Client.MemberAsync(call.Get(Email), call.Stop)).Value);

    private static async Task<int> AddAsync(Call call)
    {
        var password = call.Get(Password);
        password = password == "-" ? Typed.Secret("Password: ") : password;
        return Print(call, await call.Client.AddMemberAsync(
            call.Get(Email), call.Get(Name) ?? "", call.Get(UserName), password, call.Many(Roles), call.Many(Groups), call.Many(Plans), call.Stop));
    }

    private static async Task<int> RolesAsync(Call call)
    {
        var (_, tag) = await call.Client.MemberAsync(call.Get(Email), call.Stop);
        return Print(call, await call.Client.SetRolesAsync(call.Get(Email), call.Many(Roles), tag!, call.Stop));
    }

    private static async Task<int> StatusAsync(Call call, string status) => Print(call, await call.Client.SetStatusAsync(call.Get(Email), status, call.Stop));

    private static int Print(Call call, Member member) => call.Out.Give(member, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(member.Name)}[/] [grey]{Markup.Escape(member.Email)} · {member.Status}[/]");
        to.MarkupLine($"[grey]holds[/] {Markup.Escape(Held(member, "nothing now"))}");
    });

    /// <summary>What a member holds now; what is over or to come is in <c>wary grant list</c>.</summary>
    private static string Held(Member member, string otherwise) =>
        string.Join(", ", member.Grants.Where(g => g.InForce).Select(g => g.Fact).Distinct()) is { Length: > 0 } held ? held : otherwise;
}

/// <summary><c>wary role|group|plan list|add|remove</c>.</summary>
internal static class StandingVerbs
{
    public static IEnumerable<Command> Build()
    {
        foreach (var (noun, plural, about) in new[] { ("role", "roles", "Roles: what members are on the site."),
            ("group", "groups", "Groups: sets of customers."), ("plan", "plans", "Plans: memberships.") })
        {
            var key = new Argument<string>("key") { Description = $"The {noun}'s key." };
            var title = new Option<string?>("--title") { Description = "What people call it." };
            var command = new Command(noun, about);
            command.Subcommands.Add(new Command("list", $"All {plural}.").Does(async call => call.Out.Table(
                await call.Client.StandingsAsync(plural, call.Stop), $"No {plural} yet.",
                ("key", s => s.Key), ("title", s => s.Title), ("members", s => s.Members.ToString(System.Globalization.CultureInfo.InvariantCulture)))));
            command.Subcommands.Add(With(With(new Command("add", $"Add a {noun}."), key), title).Does(async call =>
            {
                var added = await call.Client.AddStandingAsync(plural, call.Get(key), call.Get(title) ?? call.Get(key), call.Stop);
                return call.Out.Say(added, $"Added the {noun} [bold]{Markup.Escape(added.Key)}[/] ({Markup.Escape(added.Title)}).");
            }));
            command.Subcommands.Add(With(new Command("remove", $"Remove a {noun} that nobody holds."), key).Does(async call =>
            {
                await call.Client.RemoveStandingAsync(plural, call.Get(key), call.Stop);
                return call.Out.Say(new { removed = call.Get(key) }, $"Removed the {noun} [bold]{Markup.Escape(call.Get(key))}[/].");
            }));
            yield return command;
        }
    }
}

/// <summary><c>wary session list|end</c>.</summary>
internal static class SessionVerbs
{
    private static readonly Option<string?> Member = new("--member") { Description = "Only of this member." };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };

    public static Command Build()
    {
        var session = new Command("session", "Browsers that are signed in, or have unlocked something.");
        session.Subcommands.Add(With(new Command("list", "Sessions not yet over."), Member).Does(async call => call.Out.Table(
            await call.Client.SessionsAsync(call.Get(Member), call.Stop), "Nobody is here.",
            ("id", s => s.Id.ToString()), ("who", s => s.Member ?? "guest"), ("for", s => s.Purpose), ("since", s => s.CreatedAt.ToString("u")),
            ("network", s => s.Network ?? ""), ("unlocked", s => string.Join(", ", s.Unlocked)))));
        session.Subcommands.Add(With(new Command("end", "End a session at once."), Id).Does(async call =>
        {
            await call.Client.EndSessionAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { ended = call.Get(Id) }, "Ended the session.");
        }));
        return session;
    }
}

/// <summary><c>wary token add|list|remove</c>.</summary>
internal static class TokenVerbs
{
    private static readonly Argument<string> Label = new("label") { Description = "What the token is for." };
    private static readonly Option<string[]> Scopes = new("--scope")
    { Description = "read, write, decide, view, tokens (usual: read, decide).", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<int?> Days = new("--days") { Description = "How long it lasts; without end where left out." };
    private static readonly Option<string?> SignIn = new("--sign-in")
    { Description = "Sign in with this e-mail address; the password is asked for, or read from standard input." };
    private static readonly Option<bool> Keep = new("--keep") { Description = "Keep address and token for later calls." };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };

    public static Command Build()
    {
        var token = new Command("token", "Access tokens of the API.");
        token.Subcommands.Add(With(With(new Command("add", "Make a token; it is told once."), Label), Scopes, Days, SignIn, Keep).Does(AddAsync));
        token.Subcommands.Add(new Command("list", "All tokens.").Does(async call => call.Out.Table(
            await call.Client.TokensAsync(call.Stop), "No tokens yet.",
            ("id", t => t.Id.ToString()), ("label", t => t.Label), ("scopes", t => string.Join(", ", t.Scopes)), ("made", t => t.CreatedAt.ToString("u")),
            ("until", t => t.Until?.ToString("u") ?? "withdrawn by you"))));
        token.Subcommands.Add(With(new Command("remove", "Remove a token; it ends at once."), Id).Does(async call =>
        {
            await call.Client.RemoveTokenAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { removed = call.Get(Id) }, "Removed the token.");
        }));
        return token;
    }

    private static async Task<int> AddAsync(Call call)
    {
        var name = call.Get(SignIn);
        var made = await call.Client.AddTokenAsync(call.Get(Label), call.Many(Scopes), call.Get(Days), name, name is null ? null
            : Typed.Secret($"Password of {name}: "), call.Stop);
        if (call.Get(Keep))
        {
            var (url, _) = Connection.Find(call.Get(Globals.Url), made.Text);
            var file = Connection.Keep(url, made.Text!);
            return call.Out.Say(made with { Text = null }, $"Kept the token in {Markup.Escape(file)}.");
        }

        return call.Out.Give(made, to =>
        {
            Console.Out.WriteLine(made.Text);
            to.MarkupLine("[grey]Keep it now; it is not told again. WARY_TOKEN or --token takes it.[/]");
        });
    }
}

/// <summary><c>wary status</c>, <c>wary first-owner</c>, <c>wary settings</c>.</summary>
internal static class SiteVerbs
{
    private static readonly Argument<string> Email = new("email") { Description = "The owner's e-mail address." };
    private static readonly Option<string> Name = new("--name") { Description = "The owner's name.", Required = true };
    private static readonly Option<string> Code = new("--code") { Description = "The code from the service's log.", Required = true };
    private static readonly Argument<string> FaultKind = new("kind")
    { Description = "What it is, as wary status says: gate, item, redirect, standing, password, settings." };
    private static readonly Argument<string> FaultKey = new("key") { Description = "Its name, as wary status says." };
    private static readonly Option<FileInfo?> Set = new("--set") { Description = "A JSON file with the settings to change." };

    public static IEnumerable<Command> Build()
    {
        yield return new Command("status", "How the service is. Exit code 1 where something that is stored cannot be read, and is closed for it.")
            .Does(StatusAsync);
        yield return With(new Command("mend",
            "Drop what is stored of something that cannot be read; what it closed is open again, unless other gates cover it. wary status lists them."),
            FaultKind, FaultKey).Does(MendAsync);
        yield return With(With(new Command("first-owner", "Make the first owner of a new service; the password is asked for, or read from standard input."),
            Email), Name, Code).Does(FirstOwnerAsync);
        yield return With(new Command("settings", "Show the settings of the site, or change them."), Set).Does(SettingsAsync);
    }

    private static async Task<int> StatusAsync(Call call)
    {
        var status = await call.Client.StatusAsync(call.Stop);
        return call.Out.Give(status, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(status.SiteName)}[/] "
                + $"[grey]{Markup.Escape(status.SiteUrl)} in front of {Markup.Escape(status.Origin.Length > 0 ? status.Origin : "no origin")}[/]");
            to.WriteLine($"{Many(status.Items, "item")}, {Many(status.Gates, "gate")} ({status.GatesInForce} in force), {Many(status.Members, "member")}");
            to.MarkupLine($"[grey]version {status.Version}, {status.Database}, revision {status.Revision}, up since {status.StartedAt:u}[/]");
            if (status.LettersGivenUp > 0)
            {
                to.MarkupLine($"[yellow]{status.LettersGivenUp} letter{(status.LettersGivenUp == 1 ? "" : "s")} given up[/]; "
                    + "see wary letter list --state given-up");
            }

            foreach (var fault in status.Faults)
            {
                to.MarkupLine($"\n[red bold]closed[/] The {Markup.Escape(fault.Kind)} [bold]{Markup.Escape(fault.Key)}[/] "
                    + $"cannot be read. {Markup.Escape(fault.Reason)}");
                to.MarkupLine(fault.Closed.Count > 0 ? $"       Closed for it: {Markup.Escape(string.Join(", ", fault.Closed))}"
                    : "       Nothing is closed for it.");
                to.MarkupLine($"       [italic]{Markup.Escape(fault.Mend)}[/]");
            }
        }) is var code && status.Faults.Count > 0 ? Exit.No : code;
    }

    private static string Many(int count, string noun) => count == 1 ? $"1 {noun}" : $"{count} {noun}s";

    private static async Task<int> MendAsync(Call call)
    {
        await call.Client.MendAsync(call.Get(FaultKind), call.Get(FaultKey), call.Stop);
        return call.Out.Say(new { dropped = $"{call.Get(FaultKind)}:{call.Get(FaultKey)}" },
            $"Dropped what was stored of the {Markup.Escape(call.Get(FaultKind))} [bold]{Markup.Escape(call.Get(FaultKey))}[/].");
    }

    private static async Task<int> FirstOwnerAsync(Call call)
    {
        await call.Client.FirstOwnerAsync(call.Get(Code)!, call.Get(Email), call.Get(Name)!, Typed.Secret("Password: "), call.Stop);
        return call.Out.Say(new { owner = call.Get(Email) }, $"[bold]{Markup.Escape(call.Get(Email))}[/] is the first owner.");
    }

    private static async Task<int> SettingsAsync(Call call)
    {
        var (settings, tag) = await call.Client.SettingsAsync(call.Stop);
        if (call.Get(Set) is { } file)
        {
            settings = await call.Client.SetSettingsAsync(
                System.Text.Json.JsonSerializer.Deserialize<System.Text.Json.JsonElement>(await File.ReadAllTextAsync(file.FullName, call.Stop)), tag!,
                call.Stop);
        }

        return call.Out.Give(settings, to => to.WriteLine(System.Text.Json.JsonSerializer.Serialize(settings, Output.Written)));
    }
}
