using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract;
using WarySentinel.Contract.Access;
using WarySentinel.Contract.Check;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Check;

/// <summary><c>wary may</c>, <c>wary why</c>, <c>wary view</c>.</summary>
internal static class DecisionVerbs
{
    private const string WhoIs = "guest, signed-in, an e-mail address, password:GATE (a holder), or role:dealer,group:schools.";
    private const string ActIs = "list, open, price, buy, download or listen.";
    private const string WhatIs = "An item such as product:fern-25, or an address such as /shop, also whole: https://…";
    private static readonly Argument<string> Who = new("visitor") { Description = WhoIs };
    private static readonly Argument<string> Act = new("act") { Description = ActIs };
    private static readonly Argument<string> What = new("item") { Description = WhatIs };
    private static readonly Argument<string?> AnyWho = new("visitor") { Description = WhoIs, Arity = ArgumentArity.ZeroOrOne };
    private static readonly Argument<string?> AnyAct = new("act") { Description = ActIs, Arity = ArgumentArity.ZeroOrOne };
    private static readonly Argument<string?> AnyWhat = new("item") { Description = WhatIs, Arity = ArgumentArity.ZeroOrOne };
    private static readonly Option<string?> From = new("--from")
    {
        Description =
        "Ask every question of a file instead: CSV with the columns visitor, act, item (or path), at; or JSON lines. - reads JSON lines from standard input. "
        + "The answer is given beside each.",
    };
    private static readonly Option<string?> At = new("--at") { Description = "At another time: 2026-12-24T18:00:00Z, or a day in the site's time zone." };
    private static readonly Option<string> As = new("--as")
    { Description = "guest, signed-in, an e-mail address, password:GATE (a holder), or role:dealer,group:schools.", DefaultValueFactory = _ => "guest" };
    private static readonly Option<bool> Live = new("--live") { Description = "Print an address at which the live site is seen so; good for two minutes." };

    public static IEnumerable<Command> Build()
    {
        yield return With(
            With(new Command("may",
            "Ask whether a visitor may do something, or many such questions of a file. Exit code 0 yes, 1 no (of many: where any is no)."), AnyWho, AnyAct,
            AnyWhat), At, From).Does(MayAsync);
        yield return With(With(new Command("why", "Ask why, and what would open it. Exit code 0 yes, 1 no."), Who, Act, What), At).Does(WhyAsync);
        yield return With(new Command("view", "See the catalogue as somebody else."), As, At, Live).Does(ViewAsync);
    }

    private static Question QuestionOf(string who, string act, string what, string? at) =>
        what.StartsWith('/') ? new Question(who, act, null, what, at) : new Question(who, act, what, null, at);

    private static async Task<int> MayAsync(Call call)
    {
        if (call.Get(From) is { } file)
        {
            return await ManyAsync(call, file);
        }

        if (call.Get(AnyWho) is not { } who || call.Get(AnyAct) is not { } act || call.Get(AnyWhat) is not { } what)
        {
            throw new UsageException("Say who, what they do, and with what: wary may guest open product:fern-25. Or ask the questions of a file: --from FILE.");
        }

        var decision = await call.Client.MayAsync(QuestionOf(who, act, what, call.Get(At)), call.Stop);
        call.Out.Give(decision, to => to.MarkupLine(decision.Allowed ? "[green]yes[/]"
            : $"[red]no[/] [grey]({Markup.Escape(decision.Answer!)} by the gate {Markup.Escape(decision.Gate!)})[/]"));
        return decision.Allowed ? Exit.Done : Exit.No;
    }

    /// <summary>Answers come in the form that the questions have: CSV for CSV, a line of JSON for each line of JSON.</summary>
    private static async Task<int> ManyAsync(Call call, string file)
    {
        var csv = file.EndsWith(".csv", StringComparison.OrdinalIgnoreCase);
        await using var stream = file == "-" ? Console.OpenStandardInput() : new FileInfo(file) is { Exists: true } there ? there.OpenRead()
            : throw new UsageException($"There is no file {Path.GetFullPath(file)}.");
        await using var to = new StreamWriter(Console.OpenStandardOutput(), new System.Text.UTF8Encoding(false), 64 * 1024);
        if (csv && !call.Out.IsJson)
        {
            await to.WriteLineAsync("line,visitor,act,what,at,allowed,answer,gate,problem");
        }

        var (no, wrong) = (false, false);
        await foreach (var answer in call.Client.MayAsync(stream, csv, call.Stop))
        {
            no |= answer.Allowed == false;
            wrong |= answer.Allowed is null;
            await to.WriteLineAsync(csv && !call.Out.IsJson ? CsvOf(answer) : System.Text.Json.JsonSerializer.Serialize(answer, ApiJson.Options));
        }

        return wrong ? Exit.Usage : no ? Exit.No : Exit.Done;
    }

    private static string CsvOf(BulkLine answer)
    {
        var allowed = answer.Allowed switch { true => "yes", false => "no", null => "" };
        return string.Join(',', new[]
        {
            answer.Line.ToString(System.Globalization.CultureInfo.InvariantCulture), answer.Visitor, answer.Act, answer.What, answer.At, allowed,
            answer.Answer, answer.Gate, answer.Detail,
        }.Select(Quoted));
    }

    /// <summary>A field of CSV (RFC 4180 §2).</summary>
    private static string Quoted(string? field) =>
        field is null ? "" : field.AsSpan().IndexOfAny(",\"\r\n") < 0 ? field : $"\"{field.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";

    private static async Task<int> WhyAsync(Call call)
    {
        var why = await call.Client.WhyAsync(QuestionOf(call.Get(Who), call.Get(Act), call.Get(What), call.Get(At)), call.Stop);
        call.Out.Give(why, to => Print(to, why));
        return why.Allowed ? Exit.Done : Exit.No;
    }

    private static void Print(IAnsiConsole to, WhyView why)
    {
        to.MarkupLine($"[bold {(why.Allowed ? "green" : "red")}]{Markup.Escape(why.Headline)}[/]");
        if (why.Steps.Count > 0)
        {
            to.WriteLine();
        }

        foreach (var step in why.Steps)
        {
            Print(to, step);
        }

        Print(to, "What would open it", why.Opens);
        Print(to, "What they meet", [why.Meets]);
    }

    private static void Print(IAnsiConsole to, string title, IReadOnlyList<string> lines)
    {
        if (lines.Count == 0)
        {
            return;
        }

        to.WriteLine();
        to.MarkupLine($"[yellow]{title}[/]");
        foreach (var line in lines)
        {
            to.MarkupLine($"  {Markup.Escape(line)}");
        }
    }

    private static void Print(IAnsiConsole to, ExplanationStep step)
    {
        var mark = step.Admitted switch { true => "[green]✓[/]", false => "[red]✗[/]", _ => "[grey]–[/]" };
        var gate = step.Gate is null ? "" : $" [grey]{Markup.Escape(step.Gate)}[/]";
        to.MarkupLine($"  {mark} [bold]{Markup.Escape(step.Title)}[/]{gate} {Markup.Escape(step.Way)}.");
        if (step.Sentence is not null)
        {
            to.MarkupLine($"    [italic]{Markup.Escape(step.Sentence)}[/]");
        }

        if (step.Verdict.Length > 0)
        {
            to.MarkupLine($"    {Markup.Escape(step.Verdict)}");
        }
    }

    private static async Task<int> ViewAsync(Call call)
    {
        if (call.Get(Live))
        {
            var opened = await call.Client.OpenViewAsync(call.Get(As)!, null, call.Get(At), call.Stop);
            return call.Out.Whole(opened, opened.Url);
        }

        var items = new List<SeenItem>();
        SeenView? seen = null;
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

        call.Out.Table(items, "Nothing is seen.", ("sees", i => i.Sight == "open" ? "● open" : "◐ listed"), ("item", i => i.Item), ("title", i => i.Title),
            ("beneath", i => string.Join(", ", i.Parents)));
        return call.Out.Say(
            seen, $"[bold]{Markup.Escape(seen.Who)}[/] finds {seen.Open} open and {seen.Listed} listed of {seen.Open + seen.Listed + seen.Hidden}; "
            + $"{seen.Hidden} are hidden.");
    }
}
