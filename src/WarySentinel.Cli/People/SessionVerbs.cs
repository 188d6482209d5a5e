using System.CommandLine;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

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
