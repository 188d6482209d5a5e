using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using static WarySentinel.Cli.Access.GateVerbs;

namespace WarySentinel.Cli.Catalogue;

/// <summary><c>wary item list|show|add|import</c>.</summary>
internal static class ItemVerbs
{
    private static readonly Argument<string> Id = new("id") { Description = "kind:key, such as product:fern-25." };
    private static readonly Option<string?> Kind = new("--kind") { Description = "Only of this kind." };
    private static readonly Option<string?> Beneath = new("--beneath") { Description = "Only what stands beneath this item." };
    private static readonly Option<string?> Search = new("--search") { Description = "Only what has this in title or key." };
    private static readonly Option<int> Most = new("--most") { Description = "At most so many.", DefaultValueFactory = _ => 1000 };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it." };
    private static readonly Option<string[]> Parents = new("--parents") { Description = "Items it stands beneath.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string[]> Addresses = new("--addresses") { Description = "Its addresses on the site.", AllowMultipleArgumentsPerToken = true };
    private static readonly Argument<FileInfo> File = new("file") { Description = "A .csv or .yaml file." };
    private static readonly Option<bool> KeepGood = new("--keep-good") { Description = "Store the good rows and list the rest." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only check, and say what would change." };

    public static Command Build()
    {
        var item = new Command("item", "The catalogue: everything that can be guarded.");
        item.Subcommands.Add(With(new Command("list", "Items."), Kind, Beneath, Search, Most).Does(ListAsync));
        item.Subcommands.Add(With(new Command("show", "One item."), Id).Does(ShowAsync));
        item.Subcommands.Add(With(With(new Command("add", "Add an item."), Id), Title, Parents, Addresses).Does(AddAsync));
        item.Subcommands.Add(With(With(new Command("import", "Import items from CSV (id, title, parents, addresses) or YAML. All rows are checked first."), File), KeepGood, DryRun).Does(ImportAsync));
        return item;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var asked = string.Join('&', new[] { ("kind", call.Get(Kind)), ("beneath", call.Get(Beneath)), ("search", call.Get(Search)) }
            .Where(p => p.Item2 is not null).Select(p => $"{p.Item1}={Uri.EscapeDataString(p.Item2!)}"));
        var items = new List<Item>();
        await foreach (var item in call.Client.AllAsync<Item>("items" + (asked.Length > 0 ? "?" + asked : ""), Math.Max(1, call.Get(Most)), call.Stop))
        {
            items.Add(item);
        }

        return call.Out.Table(items, "No such items.", ("id", i => i.Id), ("title", i => i.Title), ("parents", i => string.Join(", ", i.Parents)), ("addresses", i => string.Join(", ", i.Addresses)));
    }

    private static async Task<int> ShowAsync(Call call) => Print(call, await call.Client.ItemAsync(call.Get(Id), call.Stop));

    private static async Task<int> AddAsync(Call call) =>
        Print(call, await call.Client.AddItemAsync(call.Get(Id), call.Get(Title) ?? "", call.Many(Parents), call.Many(Addresses), call.Stop));

    private static int Print(Call call, Item item) => call.Out.Give(item, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(item.Title)}[/] [grey]{Markup.Escape(item.Id)}[/]");
        to.MarkupLine($"[grey]beneath[/]   {Markup.Escape(item.Parents.Count == 0 ? "the site" : string.Join(", ", item.Parents))}");
        to.MarkupLine($"[grey]addresses[/] {Markup.Escape(item.Addresses.Count == 0 ? "none" : string.Join(", ", item.Addresses))}");
        to.MarkupLine($"[grey]holds[/]     {item.Children} items");
    });

    private static async Task<int> ImportAsync(Call call)
    {
        var file = call.Get(File);
        if (!file.Exists)
        {
            throw new UsageException($"There is no file {file.FullName}.");
        }

        await using var stream = file.OpenRead();
        var yaml = file.Extension is ".yaml" or ".yml";
        if (!yaml && file.Extension is not ".csv")
        {
            throw new UsageException("The file must end in .csv, .yaml or .yml.");
        }

        ImportLine? last = null;
        var lines = call.Client.ImportAsync(stream, yaml, call.Get(KeepGood), call.Get(DryRun), call.Stop);
        if (call.Out.IsJson || Console.IsErrorRedirected)
        {
            await foreach (var line in lines)
            {
                last = line;
            }
        }
        else
        {
            var errors = AnsiConsole.Create(new AnsiConsoleSettings { Out = new AnsiConsoleOutput(Console.Error) });
            await errors.Progress().AutoClear(true).StartAsync(async progress =>
            {
                var task = progress.AddTask("reading", true, 1);
                await foreach (var line in lines)
                {
                    last = line;
                    task.Description = line.Stage;
                    task.IsIndeterminate = line.Total == 0;
                    task.MaxValue = Math.Max(1, line.Total);
                    task.Value = line.Done;
                }
            });
        }

        if (last?.Result is not { } result || last.Stage == "failed")
        {
            return call.Out.Fail(Exit.Usage, "import", last?.Detail ?? "The service ended the import without a result.", last?.Result?.Faults ?? []);
        }

        var clean = result.FaultyRows == 0 && result.Faults.Count == 0;
        call.Out.Give(result, to =>
        {
            foreach (var fault in result.Faults)
            {
                to.MarkupLine($"[red]{Markup.Escape(Output.Place(fault))}[/]{Markup.Escape(fault.Message)}");
            }

            var would = !result.Stored && (call.Get(DryRun) || !clean);
            var counts = $"{result.Added} {(would ? "would be added" : "added")}, {result.Changed} changed, {result.Same} the same";
            to.MarkupLine(clean ? counts + "."
                : result.Stored ? $"{counts}; {result.FaultyRows} rows left out."
                : $"Nothing is stored: {Math.Max(1, result.FaultyRows)} rows are not right. [grey]--keep-good stores the other {result.Added + result.Changed + result.Same}.[/]");
        });
        return clean || result.Stored ? Exit.Done : Exit.Usage;
    }
}
