using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Prices;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Prices;

/// <summary><c>wary price list|show|set|import|export|quote|remove</c>.</summary>
internal static class PriceVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The price list's key." };
    private static readonly Argument<string> Source = new("file") { Description = "CSV with the columns item, quantity, price, off; - reads standard input." };
    private static readonly Argument<string> Who = new("visitor")
    { Description = "Who pays: guest, an e-mail address, or role:dealer,group:schools." };
    private static readonly Argument<string[]> What = new("items")
    { Description = "What is in the cart: product:sky-1, or product:sky-1=3 for three.", Arity = ArgumentArity.OneOrMore };
    private static readonly Option<string?> Title = new("--title") { Description = "What people call it." };
    private static readonly Option<string?> For = new("--for") { Description = "Whom it is for, such as role:dealer; anyone says the usual prices." };
    private static readonly Option<string?> Currency = new("--currency") { Description = "The currency (ISO 4217), such as EUR." };
    private static readonly Option<string?> From = new("--from") { Description = "Since when it counts: a moment or a day; “never” for always." };
    private static readonly Option<string?> Until = new("--until") { Description = "Until when it counts: a moment, or the last day; “never” for always." };
    private static readonly Option<string?> Rounding = new("--rounding") { Description = "What reckoned prices are whole multiples of, such as 0.05." };
    private static readonly Option<string[]> Line = new("--line")
    {
        Description = "A line: ITEM=12.90, ITEM=15% off the usual price, or ITEM@10=11.50 from a quantity on. A line of that item and quantity is replaced.",
        AllowMultipleArgumentsPerToken = true,
    };
    private static readonly Option<string[]> Drop = new("--drop")
    { Description = "Drop the lines of an item.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<bool> Preview = new("--dry-run") { Description = "Say what would change, and change nothing." };
    private static readonly Option<string?> Coupon = new("--coupon") { Description = "A code that they typed." };
    private static readonly Option<string?> At = new("--at") { Description = "At another time: a moment or a day." };

    public static Command Build()
    {
        var price = new Command("price", "What things cost for whom: what a page shows is what the cart charges.");
        price.Subcommands.Add(new Command("list", "All price lists.").Does(async call => List(call, await call.Client.PriceListsAsync(call.Stop))));
        price.Subcommands.Add(With(new Command("show", "One of them, with its lines."), Key).Does(ShowAsync));
        price.Subcommands.Add(With(
            With(new Command("set", "Add one, or change one; what you leave out stays."), Key), Title, For, Currency, From, Until, Rounding, Line, Drop)
            .Does(SetAsync));
        price.Subcommands.Add(With(With(new Command("import", "Put the lines of a CSV file in place of its own."), Key, Source), Preview).Does(ImportAsync));
        price.Subcommands.Add(With(new Command("export", "Write its lines as CSV."), Key).Does(async call =>
        {
            await Console.Out.WriteAsync(await call.Client.PriceLinesAsync(call.Get(Key), call.Stop));
            return Exit.Done;
        }));
        price.Subcommands.Add(With(
            With(new Command("quote", "What somebody's cart costs. Exit code 1 where they may not buy some of it."), Who, What), Coupon, Currency, At)
            .Does(QuoteAsync));
        price.Subcommands.Add(With(new Command("remove", "Remove one."), Key).Does(async call =>
        {
            await call.Client.RemovePriceListAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the price list [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        return price;
    }

    private static int List(Call call, IReadOnlyList<PriceListView> all) => call.Out.Table(
        all, "No price lists yet: wary price set usual --currency EUR --line product:NAME=12.90.", ("key", l => l.Key), ("title", l => l.Title),
        ("for", l => l.Audience), ("currency", l => l.Currency), ("lines", l => l.Count.ToString(CultureInfo.InvariantCulture)),
        ("counts", l => Span(l.From, l.Until)));

    internal static string Span(DateTimeOffset? from, DateTimeOffset? until) => (from, until) switch
    {
        (null, null) => "always",
        ({ } start, null) => $"from {start:yyyy-MM-dd HH:mm}",
        (null, { } end) => $"until {end:yyyy-MM-dd HH:mm}",
        ({ } start, { } end) => $"{start:yyyy-MM-dd HH:mm} to {end:yyyy-MM-dd HH:mm}",
    };

    private static async Task<int> ShowAsync(Call call)
    {
        var (list, _) = await call.Client.PriceListAsync(call.Get(Key), call.Stop);
        if (!call.Out.IsJson)
        {
            var rounded = list.Rounding is { } step ? $", rounded to {step}" : "";
            Console.Out.WriteLine($"{list.Title} for {list.Audience}, in {list.Currency}{rounded}, {Span(list.From, list.Until)}.");
            return call.Out.Table(
                list.Lines!, "No lines yet.", ("item", l => l.Item ?? ""), ("from", l => (l.Quantity ?? 1).ToString(CultureInfo.InvariantCulture)),
                ("price", l => l.Price ?? $"{l.Off} % off"));
        }

        return call.Out.Give(list, _ => { });
    }

    private static async Task<int> SetAsync(Call call)
    {
        var key = call.Get(Key);
        var (old, tag) = await Call.OldAsync(call.Client.PriceListAsync(key, call.Stop));
        var draft = new PriceListDraft(
            call.Get(Title) ?? old?.Title, call.Get(For) ?? old?.Audience, call.Get(Currency) ?? old?.Currency, call.Dated(From, old?.From),
            call.Dated(Until, old?.Until), call.Get(Rounding) ?? old?.Rounding, Lines(call, old?.Lines ?? []));
        var put = await call.Client.PutPriceListAsync(key, draft, tag, call.Stop);
        return call.Out.Say(put, $"[bold]{Markup.Escape(put.Title)}[/] has {put.Count} lines in {put.Currency}, for {Markup.Escape(put.Audience)}.");
    }

    private static IReadOnlyList<PriceLine>? Lines(Call call, IReadOnlyList<PriceLine> there)
    {
        var (said, dropped) = ((call.Get(Line) ?? []).Select(Read).ToList(), call.Get(Drop) ?? []);
        return said.Count == 0 && dropped.Length == 0 ? null
            : [.. there.Where(l => !dropped.Contains(l.Item) && !said.Any(s => s.Item == l.Item && (s.Quantity ?? 1) == (l.Quantity ?? 1))), .. said];
    }

    private static PriceLine Read(string text)
    {
        var (equals, at) = (text.LastIndexOf('='), text.LastIndexOf('@'));
        if (equals <= 0)
        {
            throw new UsageException($"“{text}” is no line. Write ITEM=12.90, ITEM=15% or ITEM@10=11.50.");
        }

        var (item, value) = (text[..(at > 0 && at < equals ? at : equals)], text[(equals + 1)..]);
        int? quantity = at > 0 && at < equals
            ? int.TryParse(text[(at + 1)..equals], NumberStyles.None, CultureInfo.InvariantCulture, out var many) ? many
                : throw new UsageException($"“{text[(at + 1)..equals]}” is no quantity.")
            : null;
        return value.EndsWith('%') ? new PriceLine(item, quantity, null, value[..^1]) : new PriceLine(item, quantity, value);
    }

    private static async Task<int> ImportAsync(Call call)
    {
        var file = call.Get(Source);
        await using var stream = file == "-" ? Console.OpenStandardInput() : new FileInfo(file) is { Exists: true } there ? there.OpenRead()
            : throw new UsageException($"There is no file {Path.GetFullPath(file)}.");
        var done = await call.Client.ImportPricesAsync(call.Get(Key), stream, call.Get(Preview), call.Stop);
        var would = done.Stored ? "" : "would be ";
        return call.Out.Say(
            done, $"{done.Rows} rows: {done.Added} lines {would}added, {done.Changed} {would}changed, {done.Dropped} {would}dropped."
            + (done.Stored ? "" : " Nothing was stored."));
    }

    private static async Task<int> QuoteAsync(Call call)
    {
        var lines = call.Get(What)!.Select(text => text.Split('=') is [var item, var many]
            ? new CartLine(item, int.TryParse(many, NumberStyles.None, CultureInfo.InvariantCulture, out var count) ? count
                : throw new UsageException($"“{many}” is no quantity."))
            : new CartLine(text)).ToList();
        var quote = await call.Client.QuoteAsync(
            new QuoteQuestion(call.Get(Who), lines, call.Get(Currency), call.Get(Coupon), null, call.Get(At)), call.Stop);
        if (call.Out.IsJson)
        {
            call.Out.Give(quote, _ => { });
        }
        else
        {
            call.Out.Table(
                quote.Lines, "", ("item", l => l.Item), ("quantity", l => l.Quantity.ToString(CultureInfo.InvariantCulture)),
                ("may buy", l => l.MayBuy ? "yes" : "no"), ("price", l => l.MayPrice ? l.Price ?? "of the shop" : "not told"), ("usual", l => l.Usual ?? ""),
                ("list", l => l.List ?? ""), ("total", l => l.Total ?? ""), ("off", l => l.Discount ?? ""));
            Console.Out.WriteLine(quote.Currency is null ? $"{quote.Who}: no list has a price."
                : $"{quote.Who}: {quote.Total} {quote.Currency}" + (quote.Coupon is { } counts ? $", with the coupon {counts}." : "."));
            if (quote.CouponFault is { } fault)
            {
                Console.Out.WriteLine(fault);
            }
        }

        return quote.Lines.All(l => l.MayBuy) ? Exit.Done : Exit.No;
    }
}
