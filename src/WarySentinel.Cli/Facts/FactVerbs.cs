using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Access;
using WarySentinel.Contract.Facts;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Facts;

/// <summary><c>wary role|group|plan|pass-kind list|show|add|copy|set|rename|retire|remove</c>.</summary>
internal sealed class FactVerbs
{
    private static readonly Option<bool> Yes = new("--yes") { Description = "Do it without asking." };
    private readonly string noun;
    private readonly string plural;
    private readonly string fact;
    private readonly Argument<string> key;
    private readonly Argument<string> fresh;
    private readonly Option<string?> title;
    private readonly Option<string?> to;
    private readonly Option<string?> home = new("--home")
    { Description = "Where those who hold it are at home on the site, such as /dealers; none takes it away." };
    private readonly Option<string[]> links = new("--link")
    {
        Description = "A link of the account menu, as /address=Words; several: repeat, in their order. none takes all away.",
        AllowMultipleArgumentsPerToken = true
    };
    private readonly Option<string?> rule = new("--rule")
    { Description = "The audience whose members are in the group, such as \"role:dealer and plan:patron\"; none takes it away." };

    private readonly Option<string?> length = new("--length")
    { Description = "How long the plan lasts when it is given, such as P30D, P2W, P1M or P1Y; none for as long as nobody ends it." };

    private readonly Option<string?> grace = new("--grace")
    { Description = "How long the plan goes on after its end where it is paid for by orders, such as P3D; none for not at all." };

    private readonly Option<string?> remind = new("--remind")
    { Description = "How long before the plan's end whoever has it is reminded, such as P7D, and once more when it is over; none for not at all." };

    private readonly Option<string?> starts = new("--starts")
    { Description = "When the time that an order pays for begins: at-once, by-hand (its buyer says when) or on-use (when it first opens something)." };

    private FactVerbs(string noun, string plural)
    {
        (this.noun, this.plural, fact) = (noun, plural, noun.Split('-')[0]);
        key = new Argument<string>("key") { Description = $"The {noun}'s key." };
        fresh = new Argument<string>("new") { Description = "The new key." };
        title = new Option<string?>("--title") { Description = "What people call it." };
        to = new Option<string?>("--to") { Description = $"The {noun} that takes its place." };
    }

    public static IEnumerable<Command> Build() =>
    [
        new FactVerbs("role", "roles").Built("Roles: what members are on the site."), new FactVerbs("group", "groups").Built("Groups: sets of customers."),
        new FactVerbs("plan", "plans").Built("Plans: memberships."),
        new FactVerbs("pass-kind", "pass-kinds").Built("Kinds of passes: what gates name by pass:KEY, and the passes of one kind have in common."),
    ];

    private Option[] Fields => noun == "role" ? [title, home, links] : noun == "group" ? [title, rule] : noun == "pass-kind" ? [title]
        : [title, length, grace, remind, starts];

    private Command Built(string about)
    {
        var command = new Command(noun, about);
        command.Subcommands.Add(new Command("list", $"All {plural}.").Does(ListAsync));
        command.Subcommands.Add(With(new Command("show", $"A {noun}, and what hangs on it."), key).Does(ShowAsync));
        command.Subcommands.Add(With(With(new Command("add", $"Add a {noun}."), key), Fields).Does(call => AddAsync(call, call.Get(key), null)));
        command.Subcommands.Add(With(With(With(
            new Command("copy", $"Add a {noun} like another: what admits the other admits it too."), key), fresh), Fields)
            .Does(call => AddAsync(call, call.Get(fresh), call.Get(key))));
        command.Subcommands.Add(With(With(new Command("set", $"Change a {noun}; what is not said stays."), key), Fields).Does(SetAsync));
        command.Subcommands.Add(With(With(
            new Command("rename", $"Give a {noun} another key; whatever names it, and whoever holds it, goes along."), key), fresh).Does(RenameAsync));
        command.Subcommands.Add(With(With(
            new Command("retire", $"Put another {noun} in its place everywhere, or end it for whoever holds it."), key), to, Yes).Does(RetireAsync));
        command.Subcommands.Add(With(new Command("remove", $"Remove a {noun} that nobody holds and nothing names."), key).Does(async call =>
        {
            await call.Client.RemoveFactDefinitionAsync(plural, call.Get(key), call.Stop);
            return call.Out.Say(new { removed = call.Get(key) }, $"Removed the {noun} [bold]{Markup.Escape(call.Get(key))}[/].");
        }));
        return command;
    }

    private async Task<int> ListAsync(Call call)
    {
        var all = await call.Client.FactDefinitionsAsync(plural, call.Stop);
        (string, Func<FactDefinitionView, string>) more = noun switch
        {
            "role" => ("home", f => f.Home ?? ""),
            "group" => ("rule", f => f.Rule ?? ""),
            _ => ("lasts", f => f.Length ?? ""),
        };
        (string, Func<FactDefinitionView, string>)[] columns =
            [("key", f => f.Key), ("title", f => f.Title), ("members", f => f.Members.ToString(CultureInfo.InvariantCulture)), more];
        return call.Out.Table(all, $"No {plural} yet.", columns);
    }

    private async Task<int> ShowAsync(Call call)
    {
        var (one, _) = await call.Client.FactDefinitionAsync(plural, call.Get(key), call.Stop);
        var uses = await call.Client.FactUsesAsync(plural, call.Get(key), call.Stop);
        return call.Out.Give(new { definition = one, uses }, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(one.Title)}[/]  {fact}:{Markup.Escape(one.Key)}");
            foreach (var line in new[] { one.Home is null ? null : "at home on " + one.Home, one.Rule is null ? null
                : "by rule: " + one.Rule, one.Length is null ? null : "lasts " + one.Length, one.Grace is null ? null : "grace " + one.Grace,
                    one.Remind is null ? null : "reminds " + one.Remind,
                    one.Starts is null or "at-once" ? null : "starts " + one.Starts }.OfType<string>())
            {
                to.WriteLine(line);
            }

            one.Links.ToList().ForEach(l => to.WriteLine($"menu: {l.Words} ({l.Address})"));
            Print(to, uses);
        });
    }

    private static void Print(IAnsiConsole to, FactUsesView uses)
    {
        to.WriteLine(uses.Members == 1 ? "1 member was given it" : $"{uses.Members.ToString("N0", CultureInfo.InvariantCulture)} members were given it");
        foreach (var use in uses.Named)
        {
            to.WriteLine($"named by the {use.Kind} {use.Key}: {use.Audience}");
        }

        foreach (var key in uses.Organisations)
        {
            to.WriteLine($"given to the organisation {key}");
        }
    }

    private async Task<int> AddAsync(Call call, string named, string? like)
    {
        var draft = new FactDefinitionDraft(
            named, call.Get(title) ?? named, Said(call.Get(home)), LinksOf(call) is { } all ? all : null, Said(call.Get(rule)), like,
            Said(call.Get(length)), Said(call.Get(grace)), Said(call.Get(remind)), call.Get(starts));
        var added = await call.Client.AddFactDefinitionAsync(plural, draft, call.Stop);
        return call.Out.Say(added, like is null ? $"Added the {noun} [bold]{Markup.Escape(added.Key)}[/] ({Markup.Escape(added.Title)})."
            : $"Added the {noun} [bold]{Markup.Escape(added.Key)}[/] like {Markup.Escape(like)}: what admits the one admits the other.");
    }

    private async Task<int> SetAsync(Call call)
    {
        var (old, tag) = await call.Client.FactDefinitionAsync(plural, call.Get(key), call.Stop);
        var draft = new FactDefinitionDraft(
            old.Key, call.Get(title) ?? old.Title, call.Get(home) is { } h ? Said(h) : old.Home, LinksOf(call) ?? old.Links,
            call.Get(rule) is { } r ? Said(r) : old.Rule, null, call.Get(length) is { } lasts ? Said(lasts) : old.Length,
            call.Get(grace) is { } late ? Said(late) : old.Grace,
            call.Get(remind) is { } soon ? Said(soon) : old.Remind, call.Get(starts) ?? old.Starts);
        var set = await call.Client.SetFactDefinitionAsync(plural, old.Key, draft, tag!, call.Stop);
        return call.Out.Say(set, $"Changed the {noun} [bold]{Markup.Escape(set.Key)}[/] ({Markup.Escape(set.Title)}).");
    }

    private async Task<int> RenameAsync(Call call)
    {
        var renamed = await call.Client.RenameFactDefinitionAsync(plural, call.Get(key), call.Get(fresh), call.Stop);
        return call.Out.Say(renamed, $"The {noun} {Markup.Escape(call.Get(key))} is now [bold]{Markup.Escape(renamed.Key)}[/], for everybody who holds it.");
    }

    private async Task<int> RetireAsync(Call call)
    {
        var (old, next) = (call.Get(key), call.Get(to));
        var uses = await call.Client.FactUsesAsync(plural, old, call.Stop);
        var agreed = await Asking.AgreesAsync(call, call.Get(Yes), uses, screen =>
        {
            Print(screen, uses);
            screen.WriteLine(next is null ? "It ends for all of them." : $"Everywhere, {fact}:{next} takes its place.");
        });
        if (!agreed)
        {
            return Exit.No;
        }

        await call.Client.RetireFactDefinitionAsync(plural, old, next, call.Stop);
        return call.Out.Say(new { retired = old, to = next }, next is null ? $"Retired the {noun} [bold]{Markup.Escape(old)}[/]."
            : $"Retired the {noun} [bold]{Markup.Escape(old)}[/]; {Markup.Escape(next)} took its place.");
    }

    private static string? Said(string? text) => text == "none" ? null : text;

    /// <summary>The links that were given; null where nothing was said of them.</summary>
    private List<SiteLink>? LinksOf(Call call) => (call.Get(links) ?? []) switch
    {
        [] => null,
        ["none"] => [],
        var all => [.. all.Select(l => l.Split('=', 2) is [var address, var words] ? new SiteLink(address, words)
            : throw new UsageException($"“{l}” is no link: /address=Words."))],
    };
}
