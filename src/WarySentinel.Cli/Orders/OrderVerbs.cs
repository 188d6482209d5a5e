using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Orders;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Orders;

/// <summary><c>wary order list|show|add|tell|again|unreadable|read|drop</c>.</summary>
internal static class OrderVerbs
{
    private static readonly Argument<string> Order = new("order") { Description = "The order: its name, or our id of it." };
    private static readonly Argument<Guid> Event = new("event") { Description = "The id that wary order unreadable shows." };
    private static readonly Argument<string> What = new("what")
    { Description = "What happened: refunded, charged-back, cancelled, ended, renewed, renewal-failed, started, paused, resumed, changed or mended." };

    private static readonly Argument<FileInfo> File = new("file") { Description = "The CSV file." };
    private static readonly Option<bool> DryRun = new("--dry-run") { Description = "Only look through it." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Take it in without asking." };
    private static readonly Option<string?> Words = new("--find") { Description = "A part of an order's name, its address or its stock codes." };
    private static readonly Option<string?> Standing = new("--standing") { Description = "How it stands with the money, such as paid or refunded." };
    private static readonly Option<string?> Handling = new("--handling") { Description = "How far it is fulfilled: open, done, due or waiting." };
    private static readonly Option<int?> Limit = new("--limit") { Description = "So many at most (usual: 100)." };
    private static readonly Option<string> Email = new("--email") { Description = "Who buys.", Required = true };
    private static readonly Option<string?> NewEmail = new("--email") { Description = "The right address, where it is mended." };
    private static readonly Option<string?> Name = new("--name") { Description = "How they are called." };
    private static readonly Option<string[]> Code = new("--code")
    { Description = "A stock code, such as PATRON, NIGHT=3 or BOOK/HARD=2; may be said again.", Required = true };
    private static readonly Option<string[]> NewCode = new("--code")
    { Description = "What is bought from now on, where it changed, such as PATRON; may be said again." };

    private static readonly Option<string?> Amount = new("--amount") { Description = "The money, in decimals, such as 49.00." };
    private static readonly Option<string?> Currency = new("--currency") { Description = "The currency, such as EUR." };
    private static readonly Option<string?> Coupon = new("--coupon") { Description = "The code of the coupon that took something off." };
    private static readonly Option<string?> Named = new("--order") { Description = "The order's name; made up unless said." };
    private static readonly Option<string?> At = new("--at") { Description = "When it happened (RFC 3339); now unless said." };
    private static readonly Option<string?> Gift = new("--gift") { Description = "Whom it is for, where it is a present." };
    private static readonly Option<string?> GiftOn = new("--gift-on") { Description = "The day on which they are given it." };
    private static readonly Option<string?> GiftWords = new("--gift-words") { Description = "What is said with it." };

    public static Command Build()
    {
        var order = new Command("order", "Orders: what was told of them, and what they gave.");
        order.Subcommands.Add(With(new Command("list", "Orders, the newest first."), Words, Standing, Handling, Limit).Does(ListAsync));
        order.Subcommands.Add(With(
            With(new Command("import", "Bring in orders of before from a CSV file: looked through first. Nobody is written a letter."), File), DryRun, Yes)
            .Does(ImportAsync));
        order.Subcommands.Add(With(new Command("show", "One order with its story."), Order).Does(ShowAsync));
        order.Subcommands.Add(With(new Command("add", "Tell of an order that no source tells of."),
            Email, Name, Code, Amount, Currency, Coupon, Named, At, Gift, GiftOn, GiftWords).Does(AddAsync));
        order.Subcommands.Add(With(With(With(new Command("tell", "Tell what happened to an order later."), Order), What), Amount, NewEmail, NewCode, At)
            .Does(TellAsync));
        order.Subcommands.Add(FigureVerbs.Build());
        order.Subcommands.Add(With(new Command("again", "Take an order up again, by the rules of now."), Order).Does(async call =>
        {
            var taken = await call.Client.TakeOrderUpAsync((await FindAsync(call)).Order.Id, call.Stop);
            return call.Out.Say(taken, Said(taken));
        }));
        order.Subcommands.Add(new Command("unreadable", "What came and cannot be read.").Does(async call => call.Out.Table(
            await call.Client.UnreadableEventsAsync(call.Stop), "Everything that came could be read.", ("event", e => e.Id.ToString()), ("from", e => e.Source),
            ("came", e => e.ReceivedAt.ToString("u", CultureInfo.InvariantCulture)), ("why", e => string.Join("; ", e.Faults)))));
        order.Subcommands.Add(With(new Command("read", "Read what could not be read again."), Event).Does(async call =>
        {
            var read = await call.Client.ReadEventAgainAsync(call.Get(Event), call.Stop);
            return call.Out.Say(read, $"Read: [bold]{Markup.Escape(read.Kind ?? "nothing to do with orders")}[/].");
        }));
        order.Subcommands.Add(With(new Command("drop", "Drop what cannot be read."), Event).Does(async call =>
        {
            await call.Client.DropEventAsync(call.Get(Event), call.Stop);
            return call.Out.Say(new { dropped = call.Get(Event) }, "Dropped.");
        }));
        return order;
    }

    /// <summary>Lines as they are written on a command line: <c>CODE</c>, <c>CODE/VARIANT</c>, either with <c>=HOW MANY</c>.</summary>
    internal static IReadOnlyList<OrderLineDraft> Lines(IEnumerable<string>? codes) => [.. (codes ?? []).Select(code =>
    {
        var (name, count) = code.LastIndexOf('=') is > 0 and var at ? (code[..at], code[(at + 1)..]) : (code, "1");
        var (stock, variant) = name.Split('/', 2) is [var s, var v] ? (s, v) : (name, null);
        return new OrderLineDraft(stock, variant, int.TryParse(count, CultureInfo.InvariantCulture, out var many) ? many : 0);
    })];

    private static async Task<int> ListAsync(Call call)
    {
        var found = await call.Client.OrdersAsync(call.Get(Words), call.Get(Standing), call.Get(Handling), call.Get(Limit), null, call.Stop);
        return call.Out.Table(
            found.Items, "No such orders.", ("order", o => o.Order), ("from", o => o.Source),
                ("at", o => o.At.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)),
            ("who", o => o.Email), ("what", o => o.Codes), ("paid", o => o.Total is null ? "" : $"{o.Total} {o.Currency}"), ("money", o => o.Standing),
            ("fulfilled", o => o.WaitsFor is null ? o.Handling : $"{o.Handling} ({o.WaitsFor})"));
    }

    private static async Task<int> ShowAsync(Call call)
    {
        var story = await FindAsync(call);
        return call.Out.Give(story, to =>
        {
            var order = story.Order;
            to.MarkupLine($"[bold]{Markup.Escape(order.Order)}[/] from {Markup.Escape(order.Source)}, {order.Standing}; {Markup.Escape(Said(order))}");
            var paid = order.Total is null ? "" : $": {order.Total} {order.Currency}";
            to.WriteLine($"for {order.Email}{(order.Name is null ? "" : $", paid by {order.Name}")}{paid}");
            foreach (var line in story.Lines)
            {
                var rule = (line.Rule is null ? "no rule" : "by " + line.Rule) + (line.Until is { } end ? $", until {end:yyyy-MM-dd HH:mm}" : "");
                to.WriteLine($"  {line.Quantity} × {line.Code}{(line.Variant is null ? "" : "/" + line.Variant)}  {rule}");
            }

            foreach (var given in story.Given)
            {
                to.WriteLine($"  gave {given.Title} ({given.Fact}) {given.From:yyyy-MM-dd HH:mm} – {given.Until:yyyy-MM-dd HH:mm}");
            }

            string?[] more =
            [
                story.Coupon is { } coupon ? $"  with the coupon {coupon}" : null,
                story.Seats is { } seats ? $"  for the organisation {seats.Title} ({seats.Key}): {seats.Taken} of {seats.Seats} seats taken" : null,
                story.PausedAt is { } since ? $"  rests since {since:yyyy-MM-dd HH:mm}"
                    : story.Waits.Count > 0 ? $"  waits to be begun: {string.Join(", ", story.Waits)}" : null,
            ];
            more.OfType<string>().ToList().ForEach(to.WriteLine);
            foreach (var told in story.Events)
            {
                to.WriteLine($"  {told.At:yyyy-MM-dd HH:mm:ss}  {told.Kind} {told.Amount}{told.Address}  ({told.State})");
            }

            foreach (var letter in story.Letters)
            {
                to.WriteLine($"  {letter.At:yyyy-MM-dd HH:mm:ss}  letter: {letter.Subject}{(letter.SentAt is null ? " (on its way)" : "")}");
            }

            foreach (var sentence in story.Would ?? [])
            {
                to.WriteLine("  taken up now: " + sentence);
            }
        });
    }

    private static async Task<int> AddAsync(Call call)
    {
        var draft = new OrderDraft
        {
            Source = "hand", Order = call.Get(Named), Email = call.Get(Email), Name = call.Get(Name), Lines = Lines(call.Get(Code)), Amount = call.Get(Amount),
            Currency = call.Get(Currency), Coupon = call.Get(Coupon), At = call.Get(At),
            Gift = call.Get(Gift) is { } gift ? new OrderGiftView(gift, null, call.Get(GiftOn), call.Get(GiftWords)) : null,
        };
        var told = await call.Client.TellOrderAsync(draft, call.Stop);
        return call.Out.Say(told, $"The order [bold]{Markup.Escape(told.Order.Order)}[/] is {Markup.Escape(Said(told.Order))}.");
    }

    private static async Task<int> TellAsync(Call call)
    {
        var draft = new OrderDraft
        {
            Kind = "order." + call.Get(What), Amount = call.Get(Amount), Email = call.Get(NewEmail), At = call.Get(At),
            Lines = call.Get(NewCode) is { Length: > 0 } codes ? Lines(codes) : null,
        };
        var told = await call.Client.TellOfOrderAsync((await FindAsync(call)).Order.Id, draft, call.Stop);
        return call.Out.Say(told, $"The order [bold]{Markup.Escape(told.Order.Order)}[/] is {told.Order.Standing}; {Markup.Escape(Said(told.Order))}.");
    }

    private static async Task<int> ImportAsync(Call call)
    {
        if (call.Get(DryRun) || !call.Get(Yes))
        {
            var looked = await RunAsync(call, true);
            if (call.Get(DryRun) || looked.New == 0)
            {
                return Given(call, looked);
            }

            if (!await Asking.AgreesAsync(call, false, looked, to => Tell(looked, to)))
            {
                return Exit.No;
            }
        }

        return Given(call, await RunAsync(call, false));
    }

    private static async Task<OrderImportView> RunAsync(Call call, bool dryRun)
    {
        await using var file = call.Get(File).OpenRead();
        return await call.Client.ImportOrdersAsync(file, dryRun, call.Stop);
    }

    private static int Given(Call call, OrderImportView done)
    {
        call.Out.Give(done, to => Tell(done, to));
        return done.FaultsInAll > 0 ? Exit.No : Exit.Done;
    }

    private static void Tell(OrderImportView found, IAnsiConsole to)
    {
        var stored = found.Stored ? "Taken in." : "Nothing is stored yet.";
        to.WriteLine($"{found.Rows} rows, {found.Orders} orders: {found.New} new, {found.Known} known. {stored}");
        found.Codes.ToList().ForEach(c => to.WriteLine($"  {c.Code} ({c.Orders}): {c.Rule ?? "no rule, they will wait"}"));
        found.Faults.ToList().ForEach(f => to.WriteLine($"  line {f.Line}, {f.Field}: {f.Message}"));
        if (found.FaultsInAll > 0)
        {
            to.WriteLine($"{found.FaultsInAll} rows are left out.");
        }
    }

    private static string Said(OrderView order) => order.Handling switch
    {
        "done" => "fulfilled",
        "waiting" => $"waiting for somebody to look ({order.WaitsFor})",
        "due" => $"due on {order.DueAt:yyyy-MM-dd}",
        _ => "not paid yet",
    };

    private static async Task<OrderStoryView> FindAsync(Call call)
    {
        var name = call.Get(Order);
        if (Guid.TryParse(name, out var id))
        {
            return await call.Client.OrderAsync(id, call.Stop);
        }

        var found = (await call.Client.OrdersAsync(name, null, null, 50, null, call.Stop)).Items.Where(o => o.Order == name).ToList();
        return found is [var one] ? await call.Client.OrderAsync(one.Id, call.Stop)
            : throw new UsageException(found.Count == 0 ? $"There is no order {name}."
                : $"There are {found.Count} orders {name}: say the id of one, as wary order list --json shows it.");
    }
}
