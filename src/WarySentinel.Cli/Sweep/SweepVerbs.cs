using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.Sweep;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Sweep;

/// <summary><c>wary sweep</c> and <c>wary history</c>.</summary>
internal static class SweepVerbs
{
    private static readonly Option<string[]> As = new("--as")
    { Description = "Viewpoints beside the guest: signed-in, role:dealer, an e-mail address.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> Site = new("--site") { Description = "The public address; the service's own unless said." };
    private static readonly Option<string?> Origin = new("--origin") { Description = "The guarded site as others might reach it around the service." };
    private static readonly Option<string?> Cache = new("--cache") { Description = "A page cache in front." };
    private static readonly Option<int?> Most = new("--most") { Description = "At most so many addresses." };
    private static readonly Option<string?> Gate = new("--gate") { Description = "Only what this gate has a say in, as after a change of it." };
    private static readonly Option<int?> AtOnce = new("--at-once") { Description = "So many requests at once, from 1 to 64; 8 unless said." };
    private static readonly Option<int?> Draw = new("--draw")
    { Description = "Draw so many pages at most in a browser, to see what their scripts add; 100 unless said, 0 for none." };
    private static readonly Option<bool> Resume = new("--resume") { Description = "Go on with the sweep that was broken off, as it was asked for then." };
    private static readonly Option<bool> Past = new("--past")
    { Description = "Show what the sweeps before came to, the newest first, instead of running one." };
    private static readonly Option<bool> Last = new("--last") { Description = "Show the last report instead of running one." };
    private static readonly Argument<string?> Subject = new("subject")
    { Description = "Only about this gate, item or member.", Arity = ArgumentArity.ZeroOrOne };
    private static readonly Option<int> MostEntries = new("--most") { Description = "At most so many entries.", DefaultValueFactory = _ => 30 };

    private static System.Globalization.CultureInfo Invariant => System.Globalization.CultureInfo.InvariantCulture;

    public static IEnumerable<Command> Build()
    {
        yield return With(
            new Command("sweep",
            "Request every guarded address as an outsider and as others, and compare with what the gates say. Exit code 1 where something leaks."), As, Site,
            Origin, Cache, Most, Gate, AtOnce, Draw, Resume, Last, Past).Does(SweepAsync);
        yield return With(With(new Command("history", "Who changed what, and when."), Subject), MostEntries).Does(HistoryAsync);
    }

    private static async Task<int> SweepAsync(Call call)
    {
        if (call.Get(Past))
        {
            return call.Out.Table(
                await call.Client.SweepsAsync(call.Stop), "No sweep has run yet.", ("when", s => s.EndedAt.ToString("yyyy-MM-dd HH:mm", Invariant)),
                ("by", s => s.By), ("as", s => string.Join(", ", s.As)), ("addresses", s => s.Addresses.ToString(Invariant)),
                ("guarded", s => s.Guarded.ToString(Invariant)), ("leaks", s => s.Leaks.ToString(Invariant)));
        }

        try
        {
            return call.Get(Last) ? Give(call, await call.Client.LatestSweepAsync(call.Stop)) : await RunAsync(call);
        }
        catch (OperationCanceledException) when (call.Stop.IsCancellationRequested)
        {
            return call.Out.Fail(Exit.No, "sweep", "Broken off. “wary sweep --resume” goes on from there.", []);
        }
    }

    private static async Task<int> RunAsync(Call call)
    {
        var draft = new SweepDraft(call.Many(As), call.Get(Site), call.Get(Origin), call.Get(Cache), call.Get(Most))
        { Gate = call.Get(Gate), AtOnce = call.Get(AtOnce), Draw = call.Get(Draw), Resume = call.Get(Resume) };
        var lines = call.Client.SweepAsync(draft, call.Stop);
        var last = await Progress.ShowAsync(call, lines, l => (l.Leaks > 0 ? $"{l.Stage}, {l.Leaks} leaks" : l.Stage, l.Done, l.Total));
        const string cut = "The service ended the sweep without a report; “wary sweep --resume” goes on with it.";
        return last?.Report is { } report ? Give(call, report) : call.Out.Fail(Exit.Usage, "sweep", last?.Detail ?? cut, []);
    }

    /// <summary>Where nothing is guarded, nothing was proved.</summary>
    private static int Give(Call call, SweepReport report)
    {
        call.Out.Give(report, to => Print(to, report));
        return report.Leaks > 0 || report.Guarded == 0 ? Exit.No : Exit.Done;
    }

    private static void Print(IAnsiConsole to, SweepReport report)
    {
        foreach (var group in report.Findings.GroupBy(f => (f.Kind, f.IsLeak, f.Via, f.What)))
        {
            var addresses = group.Select(f => f.Address).Distinct().ToList();
            var who = string.Join(", ", group.Select(f => f.As).Distinct());
            var mend = addresses.Count == 1 ? group.First().Mend : group.First().Mend.Replace(addresses[0], "them", StringComparison.Ordinal);
            to.MarkupLine($"{(group.Key.IsLeak ? "[red bold]leak [/]" : "[yellow]wrong[/]")} [bold]{Markup.Escape(string.Join(" ", addresses))}[/] "
                + $"[grey]{Markup.Escape(group.Key.Via == "public" ? who : $"{who}, via the {group.Key.Via}")}[/]");
            to.Hang(6, group.Key.What);
            to.Hang(6, mend, "italic");
        }

        if (report.Findings.Count > 0)
        {
            to.WriteLine();
        }

        to.MarkupLine(
            $"[bold]{Markup.Escape(report.Site)}[/]{(report.Origin is null ? "" : $" and {Markup.Escape(report.Origin)}")}"
            + $"{(report.Cache is null ? "" : $" and the cache {Markup.Escape(report.Cache)}")}, as {Markup.Escape(string.Join(", ", report.As))}:");
        to.WriteLine($"{report.Addresses} addresses ({report.Guarded} guarded), {report.Requests} requests in "
            + $"{(report.EndedAt - report.StartedAt).TotalSeconds:0.0} s{(report.LeftOut > 0 ? $"; {report.LeftOut} addresses left out" : "")}"
            + $"{(report.Drawn > 0 ? $"; {report.Drawn} {(report.Drawn == 1 ? "page" : "pages")} drawn in a browser" : "")}"
            + $"{(report.Drawn > 0 && report.Undrawn > 0 ? $", {report.Undrawn} more {(report.Undrawn == 1 ? "has" : "have")} scripts" : "")}.");
        foreach (var warning in report.Warnings)
        {
            to.MarkupLine($"[yellow]note [/] {Markup.Escape(warning)}");
        }

        to.MarkupLine(report.Leaks == 0 && report.Guarded == 0 ? "[yellow bold]Nothing was proved.[/]" : report.Leaks > 0
            ? $"[red bold]{report.Leaks} {(report.Leaks == 1 ? "leak" : "leaks")}[/], {report.Closed} wrongly closed, {report.Missing} missing."
            : $"[green bold]Nothing leaks.[/] {report.Closed} wrongly closed, {report.Missing} missing.");
    }

    private static async Task<int> HistoryAsync(Call call)
    {
        var entries = await call.Client.HistoryAsync(call.Get(Subject), Math.Clamp(call.Get(MostEntries), 1, 1000), call.Stop);
        return call.Out.Give(entries, to =>
        {
            if (entries.Count == 0)
            {
                to.MarkupLine("[grey]Nothing on record.[/]");
            }

            foreach (var entry in entries)
            {
                to.MarkupLine($"[grey]{entry.At:u}[/] [bold]{Markup.Escape(entry.Action)}[/] "
                    + $"{Markup.Escape(entry.Subject)} [grey]by {Markup.Escape(entry.By)}[/]");
                Changes.Print(to, entry.Changes);
                if (entry.Changes.Count == 0 && (entry.After ?? entry.Before) is { } said)
                {
                    to.MarkupLine($"      {Markup.Escape(said)}");
                }
            }
        });
    }
}
