using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary member list|show|add|roles</c>; what becomes of an account is in <see cref="AccountVerbs"/>.</summary>
internal static class MemberVerbs
{
    /// <summary>Whom it is about.</summary>
    internal static readonly Argument<string> Email = new("email") { Description = "The e-mail address." };
    private static readonly Option<string?> Name = new("--name") { Description = "The name to be greeted by." };
    private static readonly Option<string?> UserName = new("--user-name") { Description = "A second name to sign in with." };
    private static readonly Option<string?> Password = new("--password")
    { Description = "The password; - reads it from standard input. Left out, the member is invited." };
    internal static readonly Option<string[]> Roles = new("--role") { Description = "Roles.", AllowMultipleArgumentsPerToken = true };
    internal static readonly Option<string[]> Groups = new("--group") { Description = "Groups.", AllowMultipleArgumentsPerToken = true };
    internal static readonly Option<string[]> Plans = new("--plan") { Description = "Plans.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<bool> Generate = new("--generate") { Description = "Make up a password, and tell it once." };
    private static readonly Option<int> Most = new("--most") { Description = "At most so many.", DefaultValueFactory = _ => 1000 };

    public static Command Build()
    {
        var member = new Command("member", "People with an account.");
        member.Subcommands.Add(With(new Command("list", "Members."), [.. FilterOptions.All, FilterOptions.Sort, Most]).Does(ListAsync));
        var show = new Command("show", "One member: where the account stands, what they hold, where they are signed in, what was noted.");
        member.Subcommands.Add(With(show, Email).Does(AccountVerbs.ShowAsync));
        member.Subcommands.Add(With(With(new Command("add", "Add a member."), Email), Name, UserName, Password, Generate, Roles, Groups, Plans).Does(AddAsync));
        member.Subcommands.Add(With(With(new Command("roles", "Give a member exactly these roles."), Email), Roles).Does(RolesAsync));
        AccountVerbs.AddTo(member);
        InviteVerbs.AddTo(member);
        member.Subcommands.Add(BulkVerbs.Build());
        ImportVerbs.AddTo(member);
        return member;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var members = new List<MemberView>();
        var path = SentinelClient.MembersPath(FilterOptions.Of(call));
        await foreach (var member in call.Client.AllAsync<MemberView>(path, Math.Max(1, call.Get(Most)), call.Stop))
        {
            members.Add(member);
        }

        return call.Out.Table(members, "No such members.", ("e-mail", m => m.Email), ("name", m => m.Name), ("status", m => m.Status),
            ("holds", m => Held(m, "")), ("joined", m => Day(m.CreatedAt)), ("last seen", m => m.SeenAt is { } at ? Day(at) : "never"));
    }

    private static async Task<int> AddAsync(Call call)
    {
        var password = call.Get(Password);
        password = password == "-" ? Typed.Secret("Password: ") : password;
        var added = await call.Client.AddMemberAsync(
            call.Get(Email), call.Get(Name) ?? "", call.Get(UserName), password, call.Many(Roles), call.Many(Groups), call.Many(Plans), call.Stop);
        return call.Get(Generate) ? InviteVerbs.Tell(call, await call.Client.GeneratePasswordAsync(added.Email, call.Stop)) : Print(call, added);
    }

    private static async Task<int> RolesAsync(Call call)
    {
        var (_, tag) = await call.Client.MemberAsync(call.Get(Email), call.Stop);
        return Print(call, await call.Client.SetRolesAsync(call.Get(Email), call.Many(Roles), tag!, call.Stop));
    }

    /// <summary>A day as lists show it.</summary>
    internal static string Day(DateTimeOffset at) => at.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture);

    /// <summary>A member in two lines.</summary>
    internal static int Print(Call call, MemberView member) => call.Out.Give(member, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(member.Name)}[/] [grey]{Markup.Escape(member.Email)} · {member.Status}[/]");
        to.MarkupLine($"[grey]holds[/] {Markup.Escape(Held(member, "nothing now"))}");
    });

    /// <summary>What a member holds now; what is over or to come is in <c>wary grant list</c>.</summary>
    internal static string Held(MemberView member, string otherwise) =>
        string.Join(", ", member.Grants.Where(g => g.InForce).Select(g => g.Fact).Distinct()) is { Length: > 0 } held ? held : otherwise;
}
