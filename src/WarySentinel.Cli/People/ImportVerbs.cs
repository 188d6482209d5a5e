using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary member import|export-all</c>: members from a file, looked through first, and into one.</summary>
internal static class ImportVerbs
{
    private static readonly Argument<FileInfo> File = new("file")
    { Description = "A CSV file (any encoding, sign and order of columns) or an .htpasswd file." };
    private static readonly Option<string[]> Map = new("--map")
    {
        Description = "Take a column for a field: \"Mail=email\"; \"Notes=\" leaves one out. Fields: email, name, first-name, last-name, user-name, "
        + "password-hash, status, roles, groups, plans, joined, until, language.",
        AllowMultipleArgumentsPerToken = true,
    };
    private static readonly Option<string?> Source = new("--source") { Description = "What the grants come from; told again from there, they change nothing." };
    private static readonly Option<string?> Domain = new("--domain") { Description = "What makes addresses of the bare names in an .htpasswd file." };
    private static readonly Option<string?> Tell = new("--tell")
    { Description = "Who is written to: fresh (who comes in), changed, or all; with --subject and --text. Nobody unless said." };
    private static readonly Option<string?> Subject = new("--subject") { Description = "The subject of the letter." };
    private static readonly Option<string?> Text = new("--text") { Description = "Its text; {name} stands for theirs." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only show what would come of it." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Store it without asking." };
    private static readonly Option<FileInfo?> Out = new("--out") { Description = "The file; standard output unless said." };

    public static void AddTo(Command member)
    {
        member.Subcommands.Add(With(With(
            new Command("import", "Bring members in from a file: looked through first, then stored. Run again, it goes on where it broke off."), File),
            Map, Source, Domain, Tell, Subject, Text, DryRun, Yes).Does(ImportAsync));
        member.Subcommands.Add(With(new Command("export-all", "Members as CSV."), [.. FilterOptions.All, FilterOptions.Sort, Out]).Does(ExportAsync));
    }

    private static async Task<int> ImportAsync(Call call)
    {
        if (call.Get(DryRun) || !call.Get(Yes))
        {
            var would = await RunAsync(call, true);
            if (call.Get(DryRun) || would.Stage != "done" || would.Fresh + would.Changed == 0)
            {
                return Give(call, would);
            }

            if (!await Asking.AgreesAsync(call, false, would, to => Print(to, would)))
            {
                return Exit.No;
            }
        }

        return Give(call, await RunAsync(call, false));
    }

    private static async Task<MemberImportLine> RunAsync(Call call, bool dryRun)
    {
        await using var file = call.Get(File).OpenRead();
        var lines = call.Client.ImportMembersAsync(file, dryRun, call.Get(Map) ?? [], call.Get(Source), call.Get(Domain),
            call.Get(Tell) is { } tell ? new MemberImportLetter(tell, call.Get(Subject), call.Get(Text)) : null, call.Stop);
        return await Progress.ShowAsync(call, lines, l => (
                l.Total == 0 ? $"{Number(l.Rows)} rows read" : $"{Number(l.Rows)} of {Number(l.Total)} rows", l.Rows, l.Total))
            ?? throw new IOException("Nothing was answered.");
    }

    private static string Number(int number) => number.ToString("N0", CultureInfo.InvariantCulture);

    private static int Give(Call call, MemberImportLine line)
    {
        call.Out.Give(line, to => Print(to, line));
        return line.Stage != "done" ? Exit.Usage : line.Refused > 0 ? Exit.No : Exit.Done;
    }

    private static void Print(IAnsiConsole to, MemberImportLine line)
    {
        if (line.Detail is not null)
        {
            to.WriteLine(line.Detail);
            return;
        }

        if (line.Columns.Count > 0)
        {
            to.WriteLine($"{line.Encoding}; " + string.Join(", ",
                line.Columns.Select(c => c.Field.Length == 0 ? $"{c.Column} (left out)" : $"{c.Column} → {c.Field}")));
        }

        to.MarkupLine($"[bold]{line.Rows}[/] rows: [green]{line.Fresh}[/] new, [yellow]{line.Changed}[/] changed, {line.Same} unchanged"
            + (line.Refused > 0 ? $", [red]{line.Refused}[/] refused" : "") + (line.Stored ? ". Stored." : ". Nothing is stored."));
        if (line.Told > 0)
        {
            to.WriteLine($"{line.Told.ToString("N0", CultureInfo.InvariantCulture)} {(line.Stored ? "are" : "would be")} written to.");
        }

        foreach (var sample in line.Samples.Take(10))
        {
            to.WriteLine($"  {(sample.Effect == "fresh" ? "+" : "~")} {sample.Email}: {sample.Says}");
        }

        foreach (var refusal in line.Refusals)
        {
            to.WriteLine($"  line {refusal.Line}, {refusal.Field}: {refusal.Reason}");
        }
    }

    private static async Task<int> ExportAsync(Call call)
    {
        await using var to = call.Get(Out) is { } file ? file.Create() : Console.OpenStandardOutput();
        await call.Client.ExportMembersAsync(FilterOptions.Of(call), to, call.Stop);
        return Exit.Done;
    }
}
