using System.CommandLine;
using Spectre.Console;
using WarySentinel.Client;
using WarySentinel.Contract.Access;
using WarySentinel.Contract.Gates;

namespace WarySentinel.Cli.Gates;

/// <summary><c>wary gate list|show|add|set|undo|remove</c>.</summary>
internal static class GateVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "The gate's key." };
    private static readonly Option<string?> NewKey = new("--key") { Description = "The gate's key; made from the title where left out." };
    private static readonly Option<string?> Title = new("--title") { Description = "What you call it." };
    private static readonly Option<string[]> Covers = new("--covers")
    {
        Description = "What it covers: category:filters, site, path:/members/**. Several: repeat, or part with commas.",
        AllowMultipleArgumentsPerToken = true
    };
    private static readonly Option<string?> Reach = new("--reach") { Description = "branch (with all beneath, usual) or item (itself alone)." };
    private static readonly Option<string?> Audience = new("--audience") { Description = "Whom it admits, such as \"role:dealer or password\"." };
    private static readonly Option<bool> Exemption = new("--exemption") { Description = "Lift broader gates here instead." };
    private static readonly Option<string[]> Acts = new("--acts")
    { Description = "What it guards: open, price, buy, download, listen (usual: all).", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> Presence = new("--presence")
    { Description = "What others find in listings: listed, hidden, or default (as the site's settings say; usual)." };
    private static readonly Option<string?> Answer = new("--answer")
    { Description = "What others get: auto (usual), sign-in, register, password, message, redirect, not-found." };
    private static readonly Option<string?> Message = new("--message") { Description = "Your words to those who are refused." };
    private static readonly Option<string?> RedirectTo = new("--redirect-to") { Description = "Where they are sent, for --answer redirect." };
    private static readonly Option<string?> LinkTo = new("--link")
    { Description = "Where the refused learn how to get in: an address on this site, https: or mailto:. none takes it away." };
    private static readonly Option<string?> LinkWords = new("--link-words") { Description = "The words of that link." };
    private static readonly Option<string?> Heading = new("--prompt-heading") { Description = "Heading of the password prompt." };
    private static readonly Option<string?> PromptText = new("--prompt-text") { Description = "Words of the password prompt." };
    private static readonly Option<string?> PromptLabel = new("--prompt-label") { Description = "Label of its field." };
    private static readonly Option<string?> Placeholder = new("--prompt-placeholder") { Description = "Placeholder of its field." };
    private static readonly Option<string?> Button = new("--prompt-button") { Description = "Text of its button." };
    private static readonly Option<string?> RotateEvery = new("--rotate-every")
    { Description = "Change its passwords by themselves: P30D every 30 days. none ends it." };
    private static readonly Option<string?> RotateOverlap = new("--rotate-overlap") { Description = "How long old and new both work (usual: P2D)." };
    private static readonly Option<string[]> RotateTell = new("--rotate-tell")
    { Description = "E-mail addresses that are sent the new one.", AllowMultipleArgumentsPerToken = true };
    private static readonly Option<string?> From = new("--from")
    { Description = "Start: a day in the site's time zone such as 2026-12-01, or a time such as 2026-12-01T18:00:00Z; none takes it away." };
    private static readonly Option<string?> Until = new("--until") { Description = "End: the last day that counts, or a time; none takes it away." };
    private static readonly Option<bool?> Enabled = new("--enabled") { Description = "true or false." };
    private static readonly Option<string?> UnlockFor = new("--unlock-for")
    { Description = "How long a shared password opens it: P14D is 14 days, PT8H 8 hours, session until the browser is closed." };
    private static readonly Option<string?> Basic = new("--basic")
    { Description = "Take a name and password with each request, as download tools send them: no, tools, or everybody (browsers show their own box)." };
    private static readonly Option<bool> Preview = new("--preview") { Description = "Only show who would gain and lose what." };

    private static readonly Option[] Fields =
        [Title, Covers, Reach, Audience, Exemption, Acts, Presence, Answer, Message, RedirectTo, From, Until, Enabled, UnlockFor, Basic, LinkTo, LinkWords,
        Heading, PromptText, PromptLabel, Placeholder, Button, RotateEvery, RotateOverlap, RotateTell, Preview];

    public static Command Build()
    {
        var gate = new Command("gate", "Gates and exemptions: what is guarded, whom it admits, what others meet.");
        gate.Subcommands.Add(new Command("list", "All gates, as sentences.").Does(ListAsync));
        gate.Subcommands.Add(With(new Command("show", "One gate."), Key).Does(ShowAsync));
        gate.Subcommands.Add(With(With(new Command("add", "Add a gate."), NewKey), Fields).Does(AddAsync));
        gate.Subcommands.Add(With(With(new Command("set", "Change a gate; what you leave out stays."), Key), Fields).Does(SetAsync));
        gate.Subcommands.Add(With(new Command("undo", "Take a gate's last change back, also where it was removed."), Key).Does(UndoAsync));
        gate.Subcommands.Add(With(With(new Command("remove", "Remove a gate."), Key), Preview).Does(RemoveAsync));
        return gate;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var gates = new List<GateView>();
        await foreach (var gate in call.Client.AllAsync<GateView>("gates", 100_000, call.Stop))
        {
            gates.Add(gate);
        }

        return call.Out.Table(gates, "No gates yet: everything is open. Add one with: wary gate add", ("key", g => g.Key), ("state", StateOf),
            ("sentence", g => g.Sentence));
    }

    private static async Task<int> ShowAsync(Call call) => Print(call, (await call.Client.GateAsync(call.Get(Key), call.Stop)).Value);

    private static async Task<int> AddAsync(Call call)
    {
        var draft = Draft(call, new GateDraft { Key = call.Get(NewKey) });
        return call.Get(Preview) ? PrintEffect(call, await call.Client.PreviewAsync(null, draft, call.Stop))
            : Print(call, await call.Client.AddGateAsync(draft, call.Stop));
    }

    private static async Task<int> SetAsync(Call call)
    {
        var (old, tag) = await call.Client.GateAsync(call.Get(Key), call.Stop);
        var draft = Draft(call, GateDraft.Of(old));
        return call.Get(Preview) ? PrintEffect(call, await call.Client.PreviewAsync(old.Key, draft, call.Stop))
            : Print(call, await call.Client.SetGateAsync(old.Key, draft, tag!, call.Stop));
    }

    private static async Task<int> UndoAsync(Call call)
    {
        var key = call.Get(Key);
        return await call.Client.UndoGateAsync(key, call.Stop) is { } gate ? Print(call, gate)
            : call.Out.Say(new { removed = key }, $"The gate [bold]{Markup.Escape(key)}[/] is gone again.");
    }

    private static async Task<int> RemoveAsync(Call call)
    {
        var (old, tag) = await call.Client.GateAsync(call.Get(Key), call.Stop);
        if (call.Get(Preview))
        {
            return PrintEffect(call, await call.Client.PreviewAsync(old.Key, null, call.Stop));
        }

        await call.Client.RemoveGateAsync(old.Key, tag!, call.Stop);
        return call.Out.Say(new { removed = old.Key }, $"Removed the gate [bold]{Markup.Escape(old.Key)}[/].");
    }

    private static GateDraft Draft(Call call, GateDraft draft)
    {
        draft = draft with
        {
            Title = call.Said(Title) ? call.Get(Title) : draft.Title,
            Covers = call.Said(Covers) ? call.Many(Covers) : draft.Covers,
            Reach = call.Get(Reach) ?? draft.Reach,
            Audience = call.Get(Audience) ?? draft.Audience,
            Kind = call.Said(Exemption) ? (call.Get(Exemption) ? "exemption" : "requirement") : draft.Kind,
            Acts = call.Said(Acts) ? call.Many(Acts) : draft.Acts,
            Presence = call.Get(Presence) ?? draft.Presence,
            Answer = call.Get(Answer) ?? draft.Answer,
            Message = call.Said(Message) ? call.Get(Message) : draft.Message,
            RedirectTo = call.Get(RedirectTo) ?? draft.RedirectTo,
            From = call.Get(From) is { } from ? (from == "none" ? null : from) : draft.From,
            Until = call.Get(Until) is { } until ? (until == "none" ? null : until) : draft.Until,
            Enabled = call.Get(Enabled) ?? draft.Enabled,
            UnlockFor = call.Get(UnlockFor) ?? draft.UnlockFor,
            Basic = call.Get(Basic) ?? draft.Basic,
            Link = call.Get(LinkTo) == "none" ? null : call.Said(LinkTo) || call.Said(LinkWords)
                ? new SiteLink(call.Get(LinkTo) ?? draft.Link?.Address ?? "", call.Get(LinkWords) ?? draft.Link?.Words ?? "") : draft.Link,
            Prompt = new PromptWords(
                call.Get(Heading) ?? draft.Prompt?.Heading, call.Get(PromptText) ?? draft.Prompt?.Text, call.Get(PromptLabel) ?? draft.Prompt?.Label,
                call.Get(Placeholder) ?? draft.Prompt?.Placeholder, call.Get(Button) ?? draft.Prompt?.Button),
            Rotation = call.Get(RotateEvery) == "none" ? null : new RotationDraft(
                call.Get(RotateEvery) ?? draft.Rotation?.Every, call.Get(RotateOverlap) ?? draft.Rotation?.Overlap, call.Said(RotateTell)
                ? call.Many(RotateTell) : draft.Rotation?.Tell),
        };
        return draft.Kind == "exemption" && !call.Said(Audience) ? draft with { Audience = null } : draft;
    }

    private static int Print(Call call, GateView gate) => call.Out.Give(gate, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(gate.Title)}[/] [grey]{Markup.Escape(gate.Key)} · {StateOf(gate)} · version {gate.Version}[/]");
        to.WriteLine(gate.Sentence);
        Line(to, "As text", gate.Audience);
        Line(to, "Message", gate.Message);
        Line(to, "Link   ", gate.Link is { } link ? $"{link.Words} ({link.Address})" : null);
        Line(to, "Passwords", gate.Rotation is { } rotation ? $"change every {rotation.Every}, both work for {rotation.Overlap}, the new one goes to "
            + string.Join(", ", rotation.Tell ?? []) : null);
    });

    private static void Line(IAnsiConsole to, string name, string? text)
    {
        if (text is not null)
        {
            to.MarkupLine($"[grey]{name}[/] {Markup.Escape(text)}");
        }
    }

    private static int PrintEffect(Call call, EffectView effect) => call.Out.Give(effect, to =>
    {
        to.MarkupLine($"[bold]{Markup.Escape(effect.Sentence)}[/]");
        to.MarkupLine("Nothing is saved. If you save this:");
        to.WriteLine($"  {effect.ItemsClosing} items close for somebody, {effect.ItemsOpening} open.");
        to.WriteLine($"  {effect.MembersLosing} members lose something, {effect.MembersGaining} gain, {effect.MembersKeeping} keep what they have.");
        foreach (var (words, names, all) in new[] { ("lose", effect.LosingNames, effect.MembersLosing), ("gain", effect.GainingNames, effect.MembersGaining) })
        {
            if (names.Count > 0)
            {
                var more = all > names.Count ? $" and {all - names.Count} more" : "";
                to.MarkupLine($"  [grey]They {words}:[/] {Markup.Escape(string.Join(", ", names))}{more}");
            }
        }

        foreach (var item in effect.Elsewhere)
        {
            to.MarkupLine($"  [yellow]{Markup.Escape(item.Title)} also stands in a place that stays open, and closes there too.[/]");
        }

        foreach (var row in effect.Rows)
        {
            var beneath = row.AlsoBeneath > 0 ? $" and {row.AlsoBeneath} beneath" : "";
            var change = row.Before != row.After ? $"{row.Before} → {row.After}"
                : string.Join(", ", row.Lost.Select(l => "loses " + l).Concat(row.Gained.Select(g => "gains " + g)));
            to.MarkupLine($"  {Markup.Escape(row.Title)}{beneath} [grey]for[/] {Markup.Escape(string.Join(", ", row.ForWhom))}: {change}");
        }

        if (effect.MoreRows > 0)
        {
            to.WriteLine($"  … and {effect.MoreRows} more lines; --json gives the numbers.");
        }
    });

    private static string StateOf(GateView gate) => gate.Enabled ? gate.InForce ? "in force" : "dated" : "off";

    /// <summary>A command that takes these arguments and options.</summary>
    internal static Command With(Command command, params Symbol[] parts)
    {
        foreach (var part in parts)
        {
            if (part is Argument argument)
            {
                command.Arguments.Add(argument);
            }
            else
            {
                command.Options.Add((Option)part);
            }
        }

        return command;
    }
}
