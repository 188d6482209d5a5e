using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Entries;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Entries;

/// <summary><c>wary entry list|find|try|set|remove</c>: what one entry is, on pages of cards and in data.</summary>
internal static class EntryVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The rule's key." };
    private static readonly Argument<string> Address = new("address") { Description = "An address on the site." };
    private static readonly Option<string[]> At = new("--at") { Description = "An address or pattern that it is for; may be said again.", Required = true };
    private static readonly Option<string> Entry = new("--entry") { Description = "What one entry is: a CSS selector, or a JSONPath.", Required = true };
    private static readonly Option<string?> Link = new("--link") { Description = "Of a card: what in it says what it is about; its first link unless said." };
    private static readonly Option<string?> Price = new("--price")
    { Description = "What in an entry goes where its price is guarded: a CSS selector, or @.price." };
    private static readonly Option<string?> About = new("--about") { Description = "Of data: the item or address of an entry, such as product:{sku}." };
    private static readonly Option<string?> Behind = new("--behind")
    { Description = "Of data in a script: the name before it, such as window.__DATA__, or #id of a script that is data." };
    private static readonly Option<bool> Blank = new("--blank") { Description = "Of data: empty entries in place of taking them out." };
    private static readonly Option<string[]> Beside = new("--beside") { Description = "With --blank: a list in step with the entries; may be said again." };
    private static readonly Option<string[]> Points = new("--points") { Description = "With --blank: numbers that are places of entries; may be said again." };
    private static readonly Option<string?> As = new("--as") { Description = "A viewpoint or a member; a guest unless said." };
    private static readonly Option<string> TriedAt = new("--on") { Description = "The address to try it on.", Required = true };

    public static Command Build()
    {
        var entry = new Command("entry", "What one entry is, on pages of cards and in data: it goes where its item is hidden.");
        entry.Subcommands.Add(new Command("list", "All rules.").Does(async call => call.Out.Table(
            await call.Client.EntriesAsync(call.Stop), "No rules yet: entries of lists and tables are known without.", ("key", r => r.Key),
                ("sort", r => r.Sort),
            ("at", r => string.Join(" ", r.At)), ("entry", r => r.IsUnreadable ? "cannot be read: closed" : r.Entry ?? ""),
                ("about", r => r.About ?? r.Link ?? ""),
            ("price", r => r.Price ?? ""))));
        entry.Subcommands.Add(With(new Command("find", "Look for entries at an address, and propose rules."), Address).Does(FindAsync));
        entry.Subcommands.Add(
            With(With(new Command("try", "Show what a rule would do at an address. Nothing is stored."), Key), [.. Said, TriedAt, As]).Does(TryAsync));
        entry.Subcommands.Add(With(With(new Command("set", "Add a rule, or change one."), Key), Said).Does(async call =>
        {
            var put = await call.Client.PutEntryAsync(call.Get(Key), DraftOf(call), call.Stop);
            return call.Out.Say(put, $"At {Markup.Escape(string.Join(", ", put.At))}, one entry is [bold]{Markup.Escape(put.Entry ?? "")}[/].");
        }));
        entry.Subcommands.Add(With(new Command("remove", "Remove a rule."), Key).Does(async call =>
        {
            await call.Client.RemoveEntryAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the rule [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        return entry;
    }

    private static Option[] Said => [At, Entry, Link, Price, About, Behind, Blank, Beside, Points];

    private static EntryDraft DraftOf(Call call) => new()
    {
        Key = call.Get(Key), At = call.Get(At), Entry = call.Get(Entry), Link = call.Get(Link), Price = call.Get(Price), About = call.Get(About),
        Behind = call.Get(Behind), Blank = call.Get(Blank) ? true : null, Beside = call.Get(Beside) is { Length: > 0 } beside ? beside : null,
        Points = call.Get(Points) is { Length: > 0 } points ? points : null,
    };

    private static async Task<int> FindAsync(Call call)
    {
        var found = await call.Client.ProposeEntriesAsync(call.Get(Address), call.Stop);
        return call.Out.Table(
            found.Proposals, "Nothing there looks like entries that need a rule.", ("sort", p => p.Draft.Sort ?? ""), ("entry", p => p.Draft.Entry ?? ""),
            ("about", p => p.Draft.About ?? ""), ("behind", p => p.Draft.Behind ?? ""), ("price", p => p.Draft.Price ?? ""),
            ("entries", p => p.Count.ToString(CultureInfo.InvariantCulture)), ("items", p => p.Items.ToString(CultureInfo.InvariantCulture)),
            ("the first", p => p.Example));
    }

    private static async Task<int> TryAsync(Call call)
    {
        var tried = await call.Client.TryEntryAsync(new EntryTrial(DraftOf(call), call.Get(TriedAt), call.Get(As)), call.Stop);
        return call.Out.Give(tried with { Page = null }, to =>
        {
            to.WriteLine($"For {tried.Who}: {tried.Goes} go, {tried.Stays} stay.");
            foreach (var one in tried.Entries)
            {
                to.MarkupLine($"{(one.Fate == "goes" ? "[red]goes [/]" : one.Fate == "stays" ? "stays" : "[yellow]no price[/]")}  "
                    + $"{Markup.Escape(one.Item ?? one.About ?? "?")}  [grey]{Markup.Escape(one.Words)}[/]");
            }
        });
    }
}
