using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.Catalogue;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Catalogue;

/// <summary><c>wary item list|show|add|remove|import</c>.</summary>
internal static class ItemVerbs
{
    private static readonly Argument<string> Id = new("id") { Description = "kind:key, such as product:fern-25." };
    private static readonly Option<string?> Kind = new("--kind") { Description = "Only of this kind." };
    private static readonly Option<string?> Beneath = new("--beneath") { Description = "Only what stands beneath this item." };
    private static readonly Option<string?> Search = new("--search") { Description = "Only what has this in title or key." };
    private static readonly Option<int> Most = new("--most") { Description = "At most so many.", DefaultValueFactory = _ => 1000 };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it." };
    private static readonly Option<string[]> Parents = new("--parents") { Description = "Items it stands beneath.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string[]> Addresses = new("--addresses")
    { Description = "Its addresses on the site.", AllowMultipleArgumentsPerToken = true };
    private static readonly Argument<string> Source = new("source")
    { Description = "A .csv, .yaml, .xml or .xml.gz file, an address, or sitemap, feed or walk for the guarded site's own." };
    private static readonly Option<string?> As = new("--as")
    { Description = "What stands at an address: sitemap, feed (RSS 2.0, Atom) or walk (read the site's pages)." };
    private static readonly Option<string[]> Map = new("--map")
    { Description = "What addresses stand for, where the source doesn't say: \"/product/*=product\".", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<int?> MostPages = new("--most-pages") { Description = "Most pages of a walk (usual: 2000)." };
    private static readonly Option<int?> Pause = new("--pause")
    { Description = "Pause between two pages of a walk, in milliseconds (usual: 200; robots.txt may ask for more)." };
    private static readonly Option<bool> Pages = new("--pages") { Description = "Let a walk bring in plain pages too." };
    private static readonly Option<bool> Resume = new("--resume") { Description = "Go on with a walk that broke off." };
    private static readonly Option<string[]> SameAs = new("--same-as")
    { Description = "A host that is the same site, such as www.shop.example, where a sitemap names it by another; may be said again." };
    private static readonly Option<int?> Least = new("--least") { Description = "Of a log: what was asked for so often at least (usual: 2)." };
    private static readonly Option<bool> Yes = new("--yes")
    { Description = "Do not ask: store what a sitemap, feed or walk brings; remove an item although that opens something." };
    private static readonly Option<bool> KeepGood = new("--keep-good") { Description = "Store the good rows and list the rest." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only check, and say what would change." };

    private const int MostShown = 40;

    public static Command Build()
    {
        var item = new Command("item", "The catalogue: everything that can be guarded.");
        item.Subcommands.Add(With(new Command("list", "Items."), Kind, Beneath, Search, Most).Does(ListAsync));
        item.Subcommands.Add(With(new Command("show", "One item."), Id).Does(ShowAsync));
        item.Subcommands.Add(With(With(new Command("add", "Add an item."), Id), Title, Parents, Addresses).Does(AddAsync));
        item.Subcommands.Add(With(With(
            new Command("remove", "Remove an item. What would open by it is shown first, and then it takes --yes. Exit code 1 where nothing was removed."),
            Id), Yes).Does(RemoveAsync));
        item.Subcommands.Add(With(With(
            new Command("import",
            "Let the catalogue come in: CSV (id, title, parents, addresses), YAML, a sitemap, a feed, a walk over the site, or the access log of a web server "
            + "(what people ask for and the catalogue lacks). "
            + "Everything is checked first."), Source), KeepGood, DryRun, As, Map, SameAs, Least, MostPages, Pause, Pages, Resume, Yes)
            .Does(ImportAsync));
        return item;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var asked = string.Join('&', new[] { ("kind", call.Get(Kind)), ("beneath", call.Get(Beneath)), ("search", call.Get(Search)) }
            .Where(p => p.Item2 is not null).Select(p => $"{p.Item1}={Uri.EscapeDataString(p.Item2!)}"));
        var (items, most) = (new List<ItemView>(), Math.Max(1, call.Get(Most)));
        await foreach (var item in call.Client.AllAsync<ItemView>("items" + (asked.Length > 0 ? "?" + asked : ""), most + 1, call.Stop))
        {
            items.Add(item);
        }

        if (items.Count > most)
        {
            items.RemoveAt(most);
            await Console.Error.WriteLineAsync($"wary: the first {most} of more; --most says how many.");
        }

        return call.Out.Table(items, "No such items.", ("id", i => i.Id), ("title", i => i.Title), ("parents", i => string.Join(", ", i.Parents)),
            ("addresses", i => string.Join(", ", i.Addresses)));
    }

    private static async Task<int> ShowAsync(Call call) => Print(call, await call.Client.ItemAsync(call.Get(Id), call.Stop));

    private static async Task<int> AddAsync(Call call) =>
        Print(call, await call.Client.AddItemAsync(call.Get(Id), call.Get(Title) ?? "", call.Many(Parents), call.Many(Addresses), call.Stop));

    private static async Task<int> RemoveAsync(Call call)
    {
        var id = call.Get(Id);
        var (removal, tag) = await call.Client.RemovalAsync(id, call.Stop);
        if (removal.Opens.Count > 0 && !call.Get(Yes))
        {
            call.Out.Give(removal, to =>
            {
                to.MarkupLine($"[yellow]Removing {Markup.Escape(removal.Item.Title)} would open:[/]");
                foreach (var opening in removal.Opens)
                {
                    to.MarkupLine($"  [bold]{Markup.Escape(opening.What)}[/] [grey]{opening.Before} → {opening.After}[/] "
                        + $"to {Markup.Escape(string.Join(", ", opening.ForWhom))}");
                }

                to.MarkupLine("Nothing was removed. Guard these by another gate first, or say --yes.");
            });
            return Exit.No;
        }

        await call.Client.RemoveItemAsync(id, tag!, call.Stop);
        return call.Out.Say(new { removed = id }, $"Removed [bold]{Markup.Escape(removal.Item.Title)}[/] [grey]{Markup.Escape(id)}[/].");
    }

    private static int Print(Call call, ItemView item) => call.Out.Give(item, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(item.Title)}[/] [grey]{Markup.Escape(item.Id)}[/]");
        to.MarkupLine($"[grey]beneath[/]   {Markup.Escape(item.Parents.Count == 0 ? "the site" : string.Join(", ", item.Parents))}");
        to.MarkupLine($"[grey]addresses[/] {Markup.Escape(item.Addresses.Count == 0 ? "none" : string.Join(", ", item.Addresses))}");
        to.MarkupLine($"[grey]holds[/]     {(item.Children == 1 ? "1 item" : $"{item.Children} items")}");
    });

    private static async Task<int> ImportAsync(Call call)
    {
        var source = call.Get(Source);
        var isWeb = source.StartsWith("http://", StringComparison.Ordinal) || source.StartsWith("https://", StringComparison.Ordinal);
        var kind = call.Get(As) ?? (source is "sitemap" or "feed" or "walk" ? source : null);
        if (isWeb || source == kind)
        {
            kind ??= source.Contains("sitemap", StringComparison.OrdinalIgnoreCase) ? "sitemap" : source.EndsWith('/') ? "walk" : "feed";
            var draft = new DiscoverDraft(kind, isWeb ? source : null, call.Many(Map), call.Get(MostPages), call.Get(Pause), call.Get(Pages), call.Get(Resume),
                call.Many(SameAs));
            return await DiscoverAsync(call, call.Client.DiscoverAsync(draft, call.Stop));
        }

        var file = new FileInfo(source);
        if (!file.Exists)
        {
            throw new UsageException($"There is no file {file.FullName}.");
        }

        await using var stream = file.OpenRead();
        if (kind == "log" || IsLog(file.Name))
        {
            return await DiscoverAsync(call, call.Client.DiscoverAsync(stream, call.Many(Map), [], "log", call.Get(Least), call.Stop));
        }

        switch (file.Extension)
        {
            case ".xml" or ".gz" or ".rss" or ".atom":
                return await DiscoverAsync(call, call.Client.DiscoverAsync(stream, call.Many(Map), call.Many(SameAs), null, null, call.Stop));
            case ".csv" or ".yaml" or ".yml":
                return await ImportFileAsync(call, stream, file.Extension != ".csv");
            default:
                throw new UsageException("The source must be sitemap, feed or walk, an address, or a file that ends in .csv, .yaml, .yml, .xml, .gz or .log.");
        }
    }

    /// <summary>Whether a file is called as web servers call their logs: <c>access.log</c>, <c>access.log.1</c>, <c>shop-access.log.14.gz</c>.</summary>
    private static bool IsLog(string name) => name.EndsWith(".log", StringComparison.OrdinalIgnoreCase)
        || name.Contains(".log.", StringComparison.OrdinalIgnoreCase) || name.Contains("access_log", StringComparison.OrdinalIgnoreCase);

    private static async Task<int> DiscoverAsync(Call call, IAsyncEnumerable<DiscoverLine> lines)
    {
        var last = await Progress.ShowAsync(call, lines, l => (l.Stage, l.Done, l.Total));
        if (last?.Result is not { } found)
        {
            return call.Out.Fail(Exit.Usage, "import", last?.Detail ?? "The service ended the import without a result.", []);
        }

        void Show(IAnsiConsole to) => PrintFound(to, found);
        if (found.Result.Added + found.Result.Changed == 0 || call.Get(DryRun))
        {
            return call.Out.Give(found, Show);
        }

        if (!await Asking.AgreesAsync(call, call.Get(Yes), found, Show))
        {
            return Exit.No;
        }

        var stored = await call.Client.StoreDiscoveredAsync(found.Find, call.Stop);
        return call.Out.Give(found with { Result = stored }, to =>
        {
            if (call.Get(Yes))
            {
                Show(to);
            }

            to.MarkupLine($"[green]Stored.[/] {stored.Added} added, {stored.Changed} changed, {stored.Same} the same.");
        });
    }

    private static void PrintFound(IAnsiConsole to, DiscoverResult found)
    {
        var result = found.Result;
        Changes.Print(to, found.Changes, found.MoreChanges);
        foreach (var fault in result.Faults)
        {
            to.MarkupLine($"  [yellow]left out:[/] {Markup.Escape(fault.Message)}");
        }

        foreach (var item in found.Vanished)
        {
            to.MarkupLine($"  [yellow]?[/] {Markup.Escape(item.Id)} [grey]{Markup.Escape(item.Title)}[/] is no longer named; it stays.");
        }

        foreach (var host in found.Elsewhere)
        {
            to.MarkupLine($"  [yellow]?[/] {host.Addresses} addresses of {Markup.Escape(host.Host)} left out; [grey]--same-as {Markup.Escape(host.Host)}[/] "
                + "says that it is the same site.");
        }

        foreach (var asked in found.Asked.Take(MostShown))
        {
            to.WriteLine($"  {asked.Times,7} × {asked.Address}");
        }

        if (found.Lines > 0)
        {
            to.WriteLine($"{found.Lines} lines, {found.Requests} requests of people for pages and files; {found.Asked.Count} that the catalogue lacks.");
        }

        to.WriteLine($"{found.Found} found: {result.Added} to add, {result.Changed} to change, {result.Same} the same, {found.Vanished.Count} vanished.");
        if (!found.Whole)
        {
            to.MarkupLine("[yellow]The walk has not come to its end;[/] --resume goes on where it broke off.");
        }
    }

    private static async Task<int> ImportFileAsync(Call call, Stream stream, bool yaml)
    {
        var last = await Progress.ShowAsync(
            call, call.Client.ImportAsync(stream, yaml, call.Get(KeepGood), call.Get(DryRun), call.Stop), l => (l.Stage, l.Done, l.Total));
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
                : $"Nothing is stored: {Math.Max(1, result.FaultyRows)} rows are not right. "
                + $"[grey]--keep-good stores the other {result.Added + result.Changed + result.Same}.[/]");
        });
        return clean || result.Stored ? Exit.Done : Exit.Usage;
    }
}
