using System.CommandLine;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Letters;

/// <summary><c>wary letter list|resend|drop</c>.</summary>
internal static class LetterVerbs
{
    private static readonly Option<string?> State = new("--state") { Description = "Only those waiting, sent or given-up." };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };

    public static Command Build()
    {
        var letter = new Command("letter", "Letters on their way, sent, or given up.");
        letter.Subcommands.Add(With(new Command("list", "Letters, newest first."), State).Does(async call => call.Out.Table(
            await call.Client.LettersAsync(call.Get(State), call.Stop), "No letters.",
            ("id", l => l.Id.ToString()), ("to", l => l.To), ("subject", l => l.Subject), ("state", l => l.State),
            ("tries", l => l.Tries.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("what the server said", l => l.Fault ?? ""))));
        letter.Subcommands.Add(With(new Command("resend", "Put a letter on its way again."), Id).Does(async call =>
        {
            await call.Client.ResendLetterAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { resent = call.Get(Id) }, "It is on its way again.");
        }));
        letter.Subcommands.Add(With(new Command("drop", "Drop a letter that is not sent."), Id).Does(async call =>
        {
            await call.Client.DropLetterAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { dropped = call.Get(Id) }, "Dropped the letter.");
        }));
        return letter;
    }
}
