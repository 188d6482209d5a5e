using System.CommandLine;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Spectre.Console;
using WarySentinel.Contract.Letters;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Letters;

/// <summary><c>wary letter list|show|resend|sent|drop|hold|release|test|unreachable|reachable|bounce|template</c>.</summary>
internal static class LetterVerbs
{
    private static readonly Option<string?> State = new("--state") { Description = "Only those waiting, sent, given-up or unclear." };
    private static readonly Option<string?> To = new("--to") { Description = "Only those to an address." };
    private static readonly Option<string?> Kind = new("--kind") { Description = "Only those of a kind, such as shared-password; several with commas." };
    private static readonly Argument<Guid> Id = new("id") { Description = "The id that the list shows." };
    private static readonly Argument<string> Address = new("address") { Description = "The e-mail address." };
    private static readonly Argument<FileInfo> Report = new("report") { Description = "The report, as it came by mail." };

    public static Command Build()
    {
        var letter = new Command("letter", "Letters on their way, sent, or given up; their words; the mail server.");
        letter.Subcommands.Add(With(new Command("list", "Letters, newest first."), State, To, Kind).Does(async call => call.Out.Table(
            await call.Client.LettersAsync(call.Get(State), call.Get(To), call.Get(Kind), call.Stop), "No letters.",
            ("id", l => l.Id.ToString()), ("to", l => l.To), ("subject", l => l.Subject), ("state", l => l.State),
            ("tries", l => l.Tries.ToString(CultureInfo.InvariantCulture)), ("what the server said", l => l.Fault ?? ""))));
        letter.Subcommands.Add(With(new Command("show", "One letter, and each attempt to send it."), Id).Does(ShowAsync));
        letter.Subcommands.Add(With(new Command("resend", "Put a letter on its way again."), Id).Does(async call =>
        {
            await call.Client.ResendLetterAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { resent = call.Get(Id) }, "It is on its way again.");
        }));
        letter.Subcommands.Add(With(new Command("sent", "Say of an unclear letter that it went out."), Id).Does(async call =>
        {
            await call.Client.LetterWentOutAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { sent = call.Get(Id) }, "It counts as sent.");
        }));
        letter.Subcommands.Add(With(new Command("drop", "Drop a letter that is not sent."), Id).Does(async call =>
        {
            await call.Client.DropLetterAsync(call.Get(Id), call.Stop);
            return call.Out.Say(new { dropped = call.Get(Id) }, "Dropped the letter.");
        }));
        letter.Subcommands.Add(new Command("hold", "Let all letters wait.").Does(call => HoldAsync(call, true)));
        letter.Subcommands.Add(new Command("release", "Let letters go again.").Does(call => HoldAsync(call, false)));
        letter.Subcommands.Add(new Command("test", "Try the mail server, and look at what DNS says of the sender's domain.").Does(TestAsync));
        letter.Subcommands.Add(new Command("unreachable", "Addresses that no letter reaches.").Does(async call => call.Out.Table(
            await call.Client.UnreachableAsync(call.Stop), "Every address is reached, as far as is known.", ("address", u => u.Address),
            ("since", u => u.At.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)), ("status", u => u.Status), ("what was said", u => u.Said ?? ""))));
        letter.Subcommands.Add(With(new Command("reachable", "Let letters to an address go again."), Address).Does(async call =>
        {
            await call.Client.ReachableAsync(call.Get(Address), call.Stop);
            return call.Out.Say(new { reachable = call.Get(Address) }, "Letters go there again.");
        }));
        letter.Subcommands.Add(With(new Command("bounce", "Hand on a report of a letter that reached nobody (RFC 3464)."), Report).Does(BounceAsync));
        letter.Subcommands.Add(TemplateVerbs.Build());
        return letter;
    }

    private static async Task<int> ShowAsync(Call call)
    {
        var shown = await call.Client.LetterAsync(call.Get(Id), call.Stop);
        return call.Out.Give(shown, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(shown.Letter.Subject)}[/] [grey]to {Markup.Escape(shown.Letter.To)} · {shown.Letter.State}[/]");
            foreach (var attempt in shown.Attempts)
            {
                to.MarkupLine($"[grey]{attempt.At:yyyy-MM-dd HH:mm:ss}[/] {attempt.Outcome} {Markup.Escape(attempt.Said ?? "")}");
            }
        });
    }

    private static async Task<int> HoldAsync(Call call, bool hold)
    {
        var (settings, tag) = await call.Client.SettingsAsync(call.Stop);
        var letters = JsonNode.Parse(settings.GetProperty("letters").GetRawText())!;
        letters["hold"] = hold;
        await call.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new JsonObject { ["letters"] = letters }), tag!, call.Stop);
        return call.Out.Say(new { hold }, hold ? "All letters wait. “wary letter release” lets them go." : "Letters go again.");
    }

    private static async Task<int> TestAsync(Call call)
    {
        var test = await call.Client.TestMailAsync(call.Stop);
        call.Out.Give(test, to =>
        {
            foreach (var step in test.Steps)
            {
                to.MarkupLine($"{Markup.Escape($"{step.State,-8}{step.Step,-9}")}{Markup.Escape(step.Said)}");
                if (step.Mend is { } mend)
                {
                    to.MarkupLine($"[grey]{"",17}{Markup.Escape(mend)}[/]");
                }
            }
        });
        return test.Works ? 0 : 1;
    }

    private static async Task<int> BounceAsync(Call call)
    {
        await using var report = call.Get(Report)!.OpenRead();
        var read = await call.Client.BouncedAsync(report, call.Stop);
        return call.Out.Say(
            read, string.Join(
                '\n', [
                    .. read.Marked.Select(a => $"No letter goes to {a} any more."), .. read.Passing.Select(a => $"{a} fails for now only."),
                    .. read.Strange.Select(a => $"The report names no letter that we sent: nothing changes for {a}."),
                ]));
    }
}
