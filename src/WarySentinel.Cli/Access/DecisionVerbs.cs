using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using static WarySentinel.Cli.Access.GateVerbs;

namespace WarySentinel.Cli.Access;

/// <summary><c>wary may</c>, <c>wary why</c>, <c>wary view</c>.</summary>
internal static class DecisionVerbs
{
    private static readonly Argument<string> Who = new("visitor") { Description = "guest, signed-in, an e-mail address, password:GATE (a holder), or role:dealer,group:schools." };
    private static readonly Argument<string> Act = new("act") { Description = "list, open, price, buy, download or listen." };
    private static readonly Argument<string> What = new("item") { Description = "An item such as product:fern-25, or an address such as /shop." };
    private static readonly Option<DateTimeOffset?> At = new("--at") { Description = "At another time." };
    private static readonly Option<string> As = new("--as") { Description = "guest, signed-in, an e-mail address, password:GATE (a holder), or role:dealer,group:schools.", DefaultValueFactory = _ => "guest" };
    private static readonly Option<bool> Live = new("--live") { Description = "Print an address at which the live site is seen so; good for two minutes." };

    public static IEnumerable<Command> Build()
    {
        yield return With(With(new Command("may", "Ask whether a visitor may do something. Exit code 0 yes, 1 no."), Who, Act, What), At).Does(MayAsync);
        yield return With(With(new Command("why", "Ask why, and what would open it. Exit code 0 yes, 1 no."), Who, Act, What), At).Does(WhyAsync);
        yield return With(new Command("view", "See the catalogue as somebody else."), As, At, Live).Does(ViewAsync);
    }

    private static Question QuestionOf(Call call)
    {
        var what = call.Get(What);
        return what.StartsWith('/') ? new Question(call.Get(Who), call.Get(Act), null, what, call.Get(At)) : new Question(call.Get(Who), call.Get(Act), what, null, call.Get(At));
    }

    private static async Task<int> MayAsync(Call call)
    {
        var decision = await call.Client.MayAsync(QuestionOf(call), call.Stop);
        call.Out.Give(decision, to => to.MarkupLine(decision.Allowed ? "[green]yes[/]" : $"[red]no[/] [grey]({Markup.Escape(decision.Answer!)} by the gate {Markup.Escape(decision.Gate!)})[/]"));
        return decision.Allowed ? Exit.Done : Exit.No;
    }

    private static async Task<int> WhyAsync(Call call)
    {
        var why = await call.Client.WhyAsync(QuestionOf(call), call.Stop);
        call.Out.Give(why, to => Print(to, why));
        return why.Allowed ? Exit.Done : Exit.No;
    }

    private static void Print(IAnsiConsole to, Why why)
    {
        to.MarkupLine($"[bold {(why.Allowed ? "green" : "red")}]{Markup.Escape(why.Headline)}[/]");
        if (why.Steps.Count > 0)
        {
            to.WriteLine();
        }

        foreach (var step in why.Steps)
        {
            var mark = step.Admitted switch { true => "[green]✓[/]", false => "[red]✗[/]", _ => "[grey]–[/]" };
            to.MarkupLine($"  {mark} [bold]{Markup.Escape(step.Title)}[/]{(step.Gate is null ? "" : $" [grey]{Markup.Escape(step.Gate)}[/]")} {Markup.Escape(step.Way)}.");
            if (step.Sentence is not null)
            {
                to.MarkupLine($"    [italic]{Markup.Escape(step.Sentence)}[/]");
            }

            if (step.Verdict.Length > 0)
            {
                to.MarkupLine($"    {Markup.Escape(step.Verdict)}");
            }
        }

        if (why.Opens.Count > 0)
        {
            to.WriteLine();
            to.MarkupLine("[yellow]What would open it[/]");
            foreach (var line in why.Opens)
            {
                to.MarkupLine($"  {Markup.Escape(line)}");
            }
        }

        to.WriteLine();
        to.MarkupLine("[yellow]What they meet[/]");
        to.MarkupLine($"  {Markup.Escape(why.Meets)}");
    }

    private static async Task<int> ViewAsync(Call call)
    {
        if (call.Get(Live))
        {
            var opened = await call.Client.OpenViewAsync(call.Get(As)!, null, call.Get(At), call.Stop);
            return call.Out.Whole(opened, opened.Url);
        }

        var items = new List<SeenItem>();
        Seen? seen = null;
        string? cursor = null;
        do
        {
            var page = await call.Client.SeenAsync(call.Get(As)!, call.Get(At), cursor, call.Stop);
            seen ??= page;
            items.AddRange(page.Items);
            cursor = page.Next;
        }
        while (cursor is not null);
        if (call.Out.IsJson)
        {
            return call.Out.Give(seen with { Items = items, Next = null }, _ => { });
        }

        call.Out.Table(items, "Nothing is seen.", ("sees", i => i.Sight == "open" ? "● open" : "◐ listed"), ("item", i => i.Item), ("title", i => i.Title), ("beneath", i => string.Join(", ", i.Parents)));
        return call.Out.Say(seen, $"[bold]{Markup.Escape(seen.Who)}[/] finds {seen.Open} open and {seen.Listed} listed of {seen.Open + seen.Listed + seen.Hidden}; {seen.Hidden} are hidden.");
    }
}
