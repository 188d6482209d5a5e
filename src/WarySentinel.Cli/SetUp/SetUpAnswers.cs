using Spectre.Console;
using WarySentinel.Contract.SetUp;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace WarySentinel.Cli.SetUp;

/// <summary>The owner's answers, from a file or by questions.</summary>
/// <param name="Draft">What is answered.</param>
/// <param name="Lines">The line of the file at which each answer stands, from 1.</param>
internal sealed record SetUpAnswers(SetUpDraft Draft, IReadOnlyDictionary<string, int> Lines)
{
    private static readonly string[] Known =
        ["name", "language", "timeZone", "closed", "who", "others", "sells", "joining", "signIn", "lands", "notices", "look"];

    /// <summary>Reads a file of answers. Throws <see cref="UsageException"/> with the line of what is wrong.</summary>
    public static SetUpAnswers Read(string path, string content)
    {
        try
        {
            var stream = new YamlStream();
            stream.Load(new StringReader(content));
            if (stream.Documents is not [{ RootNode: YamlMappingNode map }])
            {
                throw new UsageException($"{path}:1: answers are names and values, such as “name: My shop”. There are: {string.Join(", ", Known)}.");
            }

            var nodes = map.Children.ToDictionary(c => c.Key.ToString(), c => c.Value);
            if (map.Children.FirstOrDefault(c => !Known.Contains(c.Key.ToString())).Key is { } odd)
            {
                throw new UsageException($"{path}:{odd.Start.Line}: there is no answer “{odd}”. There are: {string.Join(", ", Known)}.");
            }

            string? Text(string name) => nodes.GetValueOrDefault(name) is not { } node ? null : node is YamlScalarNode scalar ? scalar.Value
                : throw new UsageException($"{path}:{node.Start.Line}: “{name}” is one value.");
            return new SetUpAnswers(
                new SetUpDraft
                {
                    Name = Text("name"), Language = Text("language"), TimeZone = Text("timeZone"), Who = Text("who"), Others = Text("others"),
                    Closed = nodes.GetValueOrDefault("closed") is { } closed ? Many(closed) : null,
                    Sells = nodes.GetValueOrDefault("sells") is { } sells ? Sales(path, sells) : null, Joining = Text("joining"), SignIn = Text("signIn"),
                    Lands = Text("lands"), Notices = Text("notices"), Look = Text("look"),
                },
                nodes.ToDictionary(n => n.Key, n => (int)n.Value.Start.Line));
        }
        catch (YamlException fault)
        {
            throw new UsageException($"{path}:{fault.Start.Line}:{fault.Start.Column}: {fault.Message}");
        }
    }

    /// <summary>Asks for everything; what is there already, or stands on the site's front page, is what Enter says.</summary>
    public static SetUpAnswers Ask(SetUpAsked there, FoundSiteView site)
    {
        static string Asked(string question, string? usual) =>
            AnsiConsole.Prompt(new TextPrompt<string>(question).DefaultValue(usual ?? "").AllowEmpty()).Trim();
        static string Chosen(string question, string? usual, params string[] choices) =>
            AnsiConsole.Prompt(new SelectionPrompt<string>().Title(question).AddChoices(choices.OrderBy(c => c != usual)));
        static List<string> Split(string said) => [.. said.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)];
        var old = there.Answers;
        if (site.Parts.Count > 0)
        {
            AnsiConsole.MarkupLine($"[grey]The site leads to {Markup.Escape(string.Join(", ", site.Parts.Select(p => p.Address)))}.[/]");
        }

        var name = Asked("What is your site called?", there.IsNew ? site.Title ?? old.Name : old.Name);
        var language = Asked("In which language is it (en, de, …)?", there.IsNew ? site.Language ?? old.Language : old.Language);
        var zone = Asked("In which time zone?", old.TimeZone);
        var closed = Split(Asked("What is closed? Addresses, with commas between; /** stands for all beneath.",
            string.Join(", ", old.Closed ?? ["/members/**"])));
        var sold = Split(Asked("Which memberships do you sell? Names, with commas between; nothing for none.",
            string.Join(", ", old.Sells?.Select(s => s.Title) ?? [])));
        var joining = Chosen("Who may join by themselves?", old.Joining, "closed", "invitation", "approval", "open");
        var signIn = Chosen("How do people get in?", old.SignIn, "password", "letter");
        var lands = Asked("Where do they land when they have signed in?", old.Lands ?? closed.FirstOrDefault()?.Replace("/**", "", StringComparison.Ordinal));
        var notices = Asked("Whose e-mail address is told what needs a hand? Nothing for nobody.", old.Notices);
        var look = Asked("Which page of the site do its pages look like? Nothing to leave that.", there.IsNew ? "/" : "");
        return new SetUpAnswers(
            new SetUpDraft
            {
                Name = name, Language = language, TimeZone = zone, Closed = closed.Count == 0 ? null : closed,
                Sells = sold.Count == 0 ? null : [.. sold.Select(t => old.Sells?.FirstOrDefault(s => s.Title == t) ?? new SoldPlan(t))],
                Joining = joining, SignIn = signIn, Lands = lands, Notices = notices, Look = look,
            },
            new Dictionary<string, int>());
    }

    private static List<string> Many(YamlNode node) => node is YamlSequenceNode list ? [.. list.Select(n => n.ToString())] : [node.ToString()];

    private static List<SoldPlan> Sales(string path, YamlNode node) => node is not YamlSequenceNode list
        ? throw new UsageException($"{path}:{node.Start.Line}: “sells” is a list of memberships.")
        : [.. list.Select(n => n is YamlMappingNode map && map.Children.TryGetValue("title", out var title)
            ? new SoldPlan(title.ToString(), map.Children.TryGetValue("key", out var key) ? key.ToString() : null,
                map.Children.TryGetValue("length", out var length) ? length.ToString() : null)
            : n is YamlScalarNode ? new SoldPlan(n.ToString())
            : throw new UsageException($"{path}:{n.Start.Line}: a membership is its title, or {{key: …, title: …, length: …}}."))];
}
