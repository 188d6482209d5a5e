using System.CommandLine;
using System.Text.Json;
using Spectre.Console;
using WarySentinel.Contract;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Gates;

/// <summary><c>wary look take</c>: the look of the service's pages, from the site's own.</summary>
internal static class LookVerbs
{
    private static readonly Option<string?> Page = new("--page") { Description = "The page of the site; its first where none is said." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Store without asking." };

    public static Command Build()
    {
        var look = new Command("look", "How the service's pages are dressed.");
        look.Subcommands.Add(With(new Command("take", "Read the look of the site's own pages: shows what it found, asks, and stores it."), Page, Yes)
            .Does(TakeAsync));
        return look;
    }

    private static async Task<int> TakeAsync(Call call)
    {
        var found = await call.Client.TakeLookAsync(call.Get(Page), call.Stop);
        if (!await Asking.AgreesAsync(call, call.Get(Yes), found, to =>
        {
            foreach (var colour in found.Colours)
            {
                to.MarkupLine($"  {Markup.Escape(colour.Where),-10} [{colour.Colour}]██[/] {colour.Colour}");
            }

            to.MarkupLine($"  {"logo",-10} {Markup.Escape(found.Logo ?? "none")}");
            to.MarkupLine($"  {"letters",-10} {Markup.Escape(string.Join(", ", found.Typefaces.Concat(found.Fonts).DefaultIfEmpty("none")))}");
            to.MarkupLine($"  becomes: accent {found.Look.Accent}, behind the panel {found.Look.Background}, letters {found.Look.Type}");
        }))
        {
            return Exit.No;
        }

        await call.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { look = found.Look }, ApiJson.Options), "*", call.Stop);
        return call.Out.Say(
            found, $"The service's pages look like {Markup.Escape(found.Page)} of the site: accent {found.Look.Accent}, "
                + $"behind the panel {found.Look.Background}.");
    }
}
