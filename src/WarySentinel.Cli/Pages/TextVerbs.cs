using System.CommandLine;
using System.Globalization;
using Spectre.Console;
using WarySentinel.Contract.Pages;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Pages;

/// <summary><c>wary text languages|list|set|reset</c>: the words of visitor pages.</summary>
internal static class TextVerbs
{
    private static readonly Argument<string> Language = new("language") { Description = "The language, such as en, de or pt-BR." };
    private static readonly Argument<string> Key = new("key") { Description = "The text, such as sign-in.title." };
    private static readonly Argument<string?> Words = new("words")
    { Description = "What it says. Left out: what the service says.", Arity = ArgumentArity.ZeroOrOne };
    private static readonly Option<string?> Group = new("--group") { Description = "Only texts of this group, such as sign-in." };
    private static readonly Option<bool> Missing = new("--missing") { Description = "Only what this language lacks. Ends with 1 where something is." };
    private static readonly Option<bool> Own = new("--own") { Description = "Only what you said yourself." };
    private static readonly Option<bool> All = new("--all") { Description = "Everything that you said in this language." };
    private static readonly Argument<string?> One = new("key") { Description = "The text; or --all.", Arity = ArgumentArity.ZeroOrOne };

    public static Command Build()
    {
        var text = new Command("text", "The words of visitor pages, in every language.");
        text.Subcommands.Add(new Command("languages", "The languages that pages can be in.").Does(async call => call.Out.Table(
            await call.Client.LanguagesAsync(call.Stop), "None.", ("language", l => l.Language), ("name", l => l.Name),
            ("offered", l => l.IsSites ? "the site's" : l.IsOffered ? "yes" : "no"), ("by", l => l.IsOurs ? "the service" : "you"),
            ("said by you", l => l.Own.ToString(CultureInfo.InvariantCulture)), ("missing", l => l.Missing.ToString(CultureInfo.InvariantCulture)))));
        text.Subcommands.Add(With(With(new Command("list", "The texts in a language."), Language), [Group, Missing, Own]).Does(ListAsync));
        text.Subcommands.Add(With(new Command("set", "Say a text in your own words."), Language, Key, Words).Does(async call =>
        {
            var set = await call.Client.SetTextsAsync(
                call.Get(Language), new TextsPatch(new Dictionary<string, string?> { [call.Get(Key)] = call.Get(Words) }), call.Stop);
            var now = set.Texts.First(t => t.Key == call.Get(Key));
            return call.Out.Say(now, $"{Markup.Escape(now.Key)} in {Markup.Escape(set.Language.Name)}: [bold]{Markup.Escape(now.Shown)}[/]");
        }));
        text.Subcommands.Add(With(With(new Command("reset", "Go back to what the service says."), Language, One), [All]).Does(async call =>
        {
            if (call.Get(All) == (call.Get(One) is not null))
            {
                throw new UsageException("Say which text, or --all.");
            }

            var set = call.Get(One) is { } key
                ? await call.Client.SetTextsAsync(call.Get(Language), new TextsPatch(new Dictionary<string, string?> { [key] = null }), call.Stop)
                : await call.Client.ResetTextsAsync(call.Get(Language), call.Stop);
            return call.Out.Say(set.Language, $"{Markup.Escape(set.Language.Name)}: {set.Language.Own} texts are your own.");
        }));
        return text;
    }

    private static async Task<int> ListAsync(Call call)
    {
        var found = await call.Client.TextsAsync(call.Get(Language), call.Stop);
        var onlyMissing = call.Get(Missing);
        var texts = found.Texts.Where(t => (call.Get(Group) is not { } group || t.Group == group) && (!onlyMissing || t.IsMissing)
            && (!call.Get(Own) || t.Own is not null)).Select(t => (t.Key, Said: t.Shown, Whose: t.Own is not null ? "you" : t.IsMissing ? "missing" : ""));
        var elsewhere = call.Get(Own) || call.Get(Group) is not null ? [] : found.Elsewhere.Select(u => ($"{u.Kind} {u.Key}", u.Title, "missing"));
        List<Line> lines = [.. texts.Concat(onlyMissing ? elsewhere : []).Select(t => new Line(t.Item1, t.Item2, t.Item3))];
        call.Out.Table(
            lines, onlyMissing ? "Nothing is missing." : "No such texts.", ("text", t => t.Key), ("says", t => t.Says), ("by", t => t.By));
        return onlyMissing && lines.Count > 0 ? 1 : 0;
    }

    private sealed record Line(string Key, string Says, string By);
}
