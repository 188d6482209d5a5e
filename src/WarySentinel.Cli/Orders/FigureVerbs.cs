using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Orders;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Orders;

/// <summary><c>wary order figures</c>.</summary>
internal static class FigureVerbs
{
    private static readonly Option<string?> From = new("--from") { Description = "The first month, such as 2026-01." };
    private static readonly Option<string?> Until = new("--until") { Description = "The last month." };
    private static readonly Option<int?> Days = new("--days") { Description = "How many days ahead to look for what lapses (usual: 30)." };
    private static readonly Option<bool> Csv = new("--csv") { Description = "Write it as CSV." };

    public static Command Build() => With(
        new Command("figures", "What orders came to, by month and by what was bought, and what is about to lapse."), From, Until, Days, Csv).Does(ShowAsync);

    private static async Task<int> ShowAsync(Call call)
    {
        if (call.Get(Csv))
        {
            Console.Out.Write(await call.Client.OrderFiguresFileAsync(call.Get(From), call.Get(Until), call.Stop));
            return Exit.Done;
        }

        var found = await call.Client.OrderFiguresAsync(call.Get(From), call.Get(Until), call.Get(Days), call.Stop);
        if (call.Out.IsJson)
        {
            return call.Out.Give(found, _ => { });
        }

        call.Out.Table(
            found.Rows, "No orders in that time.", ("month", r => r.Month), ("what", r => r.Title), ("sales", r => Said(r.Sales, r.SalesAmount, r)),
            ("renewals", r => Said(r.Renewals, r.RenewalsAmount, r)), ("refunds", r => Said(r.Refunds, r.RefundsAmount, r)),
            ("lapses", r => r.Lapses > 0 ? r.Lapses.ToString(CultureInfo.InvariantCulture) : ""));
        return call.Out.Give(found.Soon, to =>
        {
            if (found.Soon.Count == 0)
            {
                to.WriteLine($"Nothing by order lapses within {found.Days} days.");
            }

            foreach (var soon in found.Soon)
            {
                var worth = soon.Amount is null ? "" : $", last paid {soon.Amount} {soon.Currency}";
                to.MarkupLine($"Within {found.Days} days [bold]{Markup.Escape(soon.Title)}[/] lapses for {soon.Members}{worth}.");
            }
        });
    }

    private static string Said(int count, string? amount, OrderFiguresRow row) =>
        count == 0 ? "" : amount is null ? $"{count}" : $"{count} ({amount} {row.Currency})";
}
