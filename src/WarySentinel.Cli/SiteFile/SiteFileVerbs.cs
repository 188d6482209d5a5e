using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.SiteFile;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.SiteFile;

/// <summary><c>wary export</c> and <c>wary apply</c>: the site as text.</summary>
internal static class SiteFileVerbs
{
    private static readonly Option<FileInfo?> To = new("--to") { Description = "The file to write; standard output where left out." };
    private static readonly Option<bool> Schema = new("--schema") { Description = "Print the JSON Schema of site files instead." };
    private static readonly Argument<FileInfo> File = new("file") { Description = "The site file (YAML)." };
    private static readonly Option<bool> Prune = new("--prune") { Description = "Remove what a section of the file does not name." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Do not ask." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only show the difference. Exit code 1 where there is one." };

    public static IEnumerable<Command> Build()
    {
        yield return With(new Command("export", "Write items, gates, exemptions, roles, groups, plans and redirects as one YAML file."), To, Schema)
            .Does(ExportAsync);
        yield return With(With(new Command("apply", "Make the site what a YAML file says: shows the difference, asks, stores all of it or nothing."), File),
            Prune, Yes, DryRun).Does(ApplyAsync);
    }

    private static async Task<int> ExportAsync(Call call)
    {
        var text = call.Get(Schema) ? await call.Client.SchemaAsync(call.Stop) : await call.Client.ExportAsync(call.Stop);
        if (call.Get(To) is { } file)
        {
            await System.IO.File.WriteAllTextAsync(file.FullName, text, call.Stop);
            return call.Out.Say(new { written = file.FullName }, $"Wrote {Markup.Escape(file.FullName)}.");
        }

        Console.Out.Write(text);
        return Exit.Done;
    }

    private const int MostMoved = 5;

    private static async Task<int> ApplyAsync(Call call)
    {
        var file = call.Get(File);
        if (!file.Exists)
        {
            throw new UsageException($"There is no file {file.FullName}.");
        }

        var seen = await RunAsync(call, file, call.Get(Prune), true, null);
        for (var moved = 0; ; moved++)
        {
            var (exit, again) = await ApplyAsync(call, file, seen, moved < MostMoved);
            if (again is null)
            {
                return exit;
            }

            // Nothing was stored over what somebody else has just changed; here is what it comes to now.
            await Console.Error.WriteLineAsync("wary: the site was changed by somebody else meanwhile; compared once more.");
            seen = again;
        }
    }

    /// <summary>Shows a difference, asks, stores it; or gives the difference as it is by now, where the site has moved since.</summary>
    private static async Task<(int Exit, ApplyLine? Again)> ApplyAsync(Call call, FileInfo file, ApplyLine? seen, bool compares)
    {
        var prune = call.Get(Prune);
        if (seen?.Difference is not { } difference || seen.Stage == "failed")
        {
            return (call.Out.Fail(Exit.Usage, "apply", seen?.Detail ?? "The service ended without an answer.", seen?.Difference?.Faults ?? []), null);
        }

        var empty = difference.Added + difference.Changed + difference.Removed == 0;
        if (empty || call.Get(DryRun))
        {
            call.Out.Give(seen, to => Print(to, difference, prune));
            return (empty ? Exit.Done : Exit.No, null);
        }

        if (!await Asking.AgreesAsync(call, call.Get(Yes), seen, to => Print(to, difference, prune)))
        {
            return (Exit.No, null);
        }

        var done = await RunAsync(call, file, prune, false, seen.Revision);
        if (done?.Difference is not { } stored || !done.Stored)
        {
            var now = compares ? await RunAsync(call, file, prune, true, null) : null;
            return now?.Revision is { } by && by != seen.Revision ? (Exit.Conflict, now)
                : (call.Out.Fail(Exit.Conflict, "apply", done?.Detail ?? "The service ended without an answer.", done?.Difference?.Faults ?? []), null);
        }

        return (call.Out.Give(done, to => PrintStored(to, stored, call.Get(Yes))), null);
    }

    private static void PrintStored(IAnsiConsole to, SiteDifference stored, bool whole)
    {
        if (whole)
        {
            Changes.Print(to, stored.Changes, stored.MoreChanges);
        }

        foreach (var kept in stored.Kept)
        {
            to.MarkupLine($"[yellow]kept[/] {Markup.Escape(kept)}");
        }

        to.MarkupLine($"[green]Stored.[/] {stored.Added} added, {stored.Changed} changed, {stored.Removed} removed, {stored.Same} the same.");
    }

    private static async Task<ApplyLine?> RunAsync(Call call, FileInfo file, bool prune, bool dryRun, long? revision)
    {
        await using var stream = file.OpenRead();
        return await Progress.ShowAsync(call, call.Client.ApplyAsync(stream, prune, dryRun, revision, call.Stop), l => (l.Stage, l.Done, l.Total));
    }

    private static void Print(IAnsiConsole to, SiteDifference difference, bool prune)
    {
        Changes.Print(to, difference.Changes, difference.MoreChanges);
        if (difference.Changes.Count == 0)
        {
            to.WriteLine($"Nothing to change: {Things(difference.Same)} as the file says.");
        }
        else
        {
            to.WriteLine($"{difference.Added} to add, {difference.Changed} to change, {difference.Removed} to remove; {difference.Same} stay as they are.");
        }

        if (!prune && difference.Beside > 0)
        {
            var beside = difference.Beside == 1 ? "1 thing is not in the file and stays" : $"{difference.Beside} things are not in the file and stay";
            to.MarkupLine($"[grey]{beside}; --prune removes those of its sections.[/]");
        }

        foreach (var kept in difference.Kept)
        {
            to.MarkupLine($"[yellow]kept[/] {Markup.Escape(kept)}");
        }
    }

    private static string Things(int count) => count == 1 ? "1 thing is" : $"{count} things are";
}
