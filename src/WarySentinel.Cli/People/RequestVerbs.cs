using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.People;

namespace WarySentinel.Cli.People;

/// <summary><c>wary request list|approve|decline</c>: those who ask to join.</summary>
internal static class RequestVerbs
{
    private const int Most = 1000;
    private static readonly Argument<string> Email = new("email") { Description = "Whose request." };
    private static readonly Option<string?> Words = new("--words") { Description = "Words to them; the letter brings them." };

    public static Command Build()
    {
        var request = new Command("request", "Those who ask to join: let in, or declined.");
        request.Subcommands.Add(new Command("list", "Who asks, since when; the oldest first.").Does(ListAsync));
        request.Subcommands.Add(With(new Command("approve", "Let somebody in who asks; a letter tells them.")).Does(async call =>
        {
            var member = await call.Client.ApproveAsync(call.Get(Email), call.Get(Words), call.Stop);
            return call.Out.Say(member, $"[bold]{Markup.Escape(member.Email)}[/] is in.");
        }));
        request.Subcommands.Add(With(new Command("decline", "Say no to somebody who asks; a letter tells them.")).Does(async call =>
        {
            var member = await call.Client.DeclineAsync(call.Get(Email), call.Get(Words), call.Stop);
            return call.Out.Say(member, $"Declined [bold]{Markup.Escape(member.Email)}[/].");
        }));
        return request;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var asking = new List<MemberView>();
        var path = SentinelClient.MembersPath(new MemberFilter(Status: "pending", Sort: "joined"));
        await foreach (var member in call.Client.AllAsync<MemberView>(path, Most, call.Stop))
        {
            asking.Add(member);
        }

        return call.Out.Table(
            asking, "Nobody asks to join.", ("e-mail", m => m.Email), ("name", m => m.Name),
            ("since", m => m.CreatedAt.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)));
    }

    private static Command With(Command command)
    {
        command.Arguments.Add(Email);
        command.Options.Add(Words);
        return command;
    }
}
