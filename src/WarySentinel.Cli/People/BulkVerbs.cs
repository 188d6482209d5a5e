using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary member bulk</c>: one thing for many members, shown first.</summary>
internal static class BulkVerbs
{
    private static readonly Argument<string> Act = new("do") { Description = "give, end, suspend, reinstate, sign-out, invite or tell." };
    private static readonly Option<string[]> Whom = new("--member")
    { Description = "Members by address; or say whom by --search, --holds …", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<bool> Everybody = new("--everybody") { Description = "All members, where nothing else says whom." };
    private static readonly Option<string?> Fact = new("--fact") { Description = "What is given or ended, such as plan:patron." };
    private static readonly Option<string?> From = new("--from") { Description = "When it begins." };
    private static readonly Option<string?> Until = new("--until") { Description = "When it ends." };
    private static readonly Option<string?> Source = new("--source") { Description = "What gives it, such as import:spring." };
    private static readonly Option<string?> Words = new("--words")
    { Description = "What the suspended read when they sign in; what the invited read in the letter." };
    private static readonly Option<string?> Subject = new("--subject") { Description = "The subject of the letter." };
    private static readonly Option<string?> Text = new("--text") { Description = "Its text; {name} stands for theirs." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only show what would happen." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Do it without asking." };

    public static Command Build() => With(
        With(new Command("bulk", "Do one thing for many members: shown first, then done, with progress."), Act),
        [.. FilterOptions.All, Whom, Everybody, Fact, From, Until, Source, Words, Subject, Text, DryRun, Yes]).Does(RunAsync);

    private static async Task<int> RunAsync(Call call)
    {
        var (named, filter) = (call.Get(Whom) ?? [], FilterOptions.Of(call));
        if (named.Length == 0 && !FilterOptions.Any(filter) && !call.Get(Everybody))
        {
            throw new UsageException("Say whom: --member, --search, --holds …, or --everybody.");
        }

        var draft = new BulkDraft(
            call.Get(Act), named.Length > 0 ? named : null, named.Length > 0 ? null : filter, call.Get(Fact), call.Get(From), call.Get(Until), call.Get(Source),
            call.Get(Words), call.Get(Subject), call.Get(Text));
        if (call.Get(DryRun) || !call.Get(Yes))
        {
            var would = await LastAsync(call, draft with { DryRun = true });
            if (call.Get(DryRun))
            {
                return Give(call, would, true);
            }

            if (!await Asking.AgreesAsync(call, false, would, to => Print(to, would, true)))
            {
                return Exit.No;
            }
        }

        return Give(call, await LastAsync(call, draft), false);
    }

    private static async Task<MembersChangeLine> LastAsync(Call call, BulkDraft draft) => await Progress.ShowAsync(
        call, call.Client.BulkAsync(draft, call.Stop), l => ($"{l.Done} members", l.Done, l.Total)) ?? throw new IOException("Nothing was answered.");

    private static int Give(Call call, MembersChangeLine line, bool would)
    {
        call.Out.Give(line, to => Print(to, line, would));
        return line.Stage == "done" ? line.Refused > 0 ? Exit.No : Exit.Done : Exit.Unreachable;
    }

    private static void Print(IAnsiConsole to, MembersChangeLine line, bool would)
    {
        to.MarkupLine($"[bold]{line.Changed}[/] of {line.Done} {(would ? "would change" : "changed")}, {line.Same} {(would ? "are" : "were")} so already"
            + (line.Refused > 0 ? $", [red]{line.Refused}[/] cannot" : "") + ".");
        if (line.Whom.Count > 0)
        {
            to.WriteLine(string.Join(", ", line.Whom) + (line.Changed > line.Whom.Count ? " …" : ""));
        }

        foreach (var refusal in line.Refusals)
        {
            to.WriteLine($"  {refusal.Member}: {refusal.Reason}");
        }

        if (line.Detail is not null)
        {
            to.WriteLine(line.Detail);
        }
    }
}
