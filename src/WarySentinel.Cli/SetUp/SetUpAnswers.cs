using System.Text.Json;
using Spectre.Console;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace WarySentinel.Cli.SetUp;

/// <summary>A membership that is sold.</summary>
internal sealed record Sold(string Key, string Title);

/// <summary>What the owner says of the site; what is null stays as it is.</summary>
/// <param name="Name">What it is called.</param>
/// <param name="Language">Its language (RFC 5646 tag).</param>
/// <param name="TimeZone">Its time zone (IANA name).</param>
/// <param name="Closed">What of it is closed: addresses such as <c>/members/**</c>.</param>
/// <param name="Who">Whom that lets in, as an audience.</param>
/// <param name="Sells">The memberships that are sold.</param>
/// <param name="Joining">Who may join by themselves: <c>closed</c>, <c>approval</c> or <c>open</c>.</param>
/// <param name="SignIn"><c>password</c>, or <c>letter</c>: by a link in a letter as well.</param>
/// <param name="Lands">Where people land when they have signed in.</param>
/// <param name="Notices">Who is told what needs a hand.</param>
/// <param name="Look">The page of the site whose look the pages take.</param>
internal sealed record SetUpAnswers(
    string? Name = null, string? Language = null, string? TimeZone = null, IReadOnlyList<string>? Closed = null, string? Who = null,
    IReadOnlyList<Sold>? Sells = null, string? Joining = null, string? SignIn = null, string? Lands = null, string? Notices = null, string? Look = null)
{
    private static readonly string[] Known = ["name", "language", "timeZone", "closed", "who", "sells", "joining", "signIn", "lands", "notices", "look"];

    /// <summary>Whom the closed part lets in: those who bought what is sold, where nothing else is said.</summary>
    public string Audience => Who ?? (Sells is { Count: > 0 } sold ? string.Join(" or ", sold.Select(s => "plan:" + s.Key)) : "signed-in");

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

            var nodes = map.Children.ToDictionary(c => ((YamlScalarNode)c.Key).Value ?? "", c => c.Value);
            var odd = map.Children.FirstOrDefault(c => !Known.Contains(((YamlScalarNode)c.Key).Value));
            if (odd.Key is not null)
            {
                throw new UsageException($"{path}:{odd.Key.Start.Line}: there is no answer “{odd.Key}”. There are: {string.Join(", ", Known)}.");
            }

            string? Text(string name) => nodes.GetValueOrDefault(name) is not { } node ? null : node is YamlScalarNode scalar ? scalar.Value
                : throw new UsageException($"{path}:{node.Start.Line}: “{name}” is one value.");
            return new SetUpAnswers(
                Text("name"), Text("language"), Text("timeZone"), nodes.GetValueOrDefault("closed") is { } closed ? Many(closed) : null, Text("who"),
                nodes.GetValueOrDefault("sells") is { } sells ? Sales(path, sells) : null, Text("joining"), Text("signIn"), Text("lands"), Text("notices"),
                Text("look"));
        }
        catch (YamlException fault)
        {
            throw new UsageException($"{path}:{fault.Start.Line}:{fault.Start.Column}: {fault.Message}");
        }
    }

    /// <summary>Asks for everything; what is there already stands in the brackets.</summary>
    public static SetUpAnswers Ask(JsonElement settings)
    {
        string Asked(string question, string usual) => AnsiConsole.Prompt(new TextPrompt<string>(question).DefaultValue(usual).AllowEmpty()).Trim();
        string Said(string name) => settings.TryGetProperty(name, out var value) ? value.ToString() : "";
        var name = Asked("What is your site called?", Said("siteName"));
        var language = Asked("In which language is it (en, de, …)?", Said("language"));
        var zone = Asked("In which time zone?", Said("timeZone"));
        var closed = Asked("What is closed? Addresses, with commas between; /** stands for all beneath.", "/members/**");
        var sells = Asked("Which memberships do you sell? Names, with commas between; nothing for none.", "");
        var sold = sells.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(t => new Sold(KeyOf(t), t)).ToList();
        var joining = AnsiConsole.Prompt(new SelectionPrompt<string>().Title("Who may join by themselves?").AddChoices("closed", "approval", "open"));
        var signIn = AnsiConsole.Prompt(new SelectionPrompt<string>().Title("How do people get in?").AddChoices("password", "letter"));
        var lands = Asked("Where do they land when they have signed in?", closed.Split(',')[0].Trim().Replace("/**", "", StringComparison.Ordinal));
        var notices = Asked("Whose e-mail address is told what needs a hand? Nothing for nobody.", "");
        var look = Asked("Which page of the site do its pages look like? Nothing to leave that.", "/");
        return new SetUpAnswers(
            name, language, zone, closed.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries), null, sold, joining, signIn,
            lands.Length == 0 ? null : lands, notices.Length == 0 ? null : notices, look.Length == 0 ? null : look);
    }

    /// <summary>What of it is in the site file (docs/how-to/site-as-text.md); keys are always the same, so that saying it again changes nothing.</summary>
    public string SiteFile() => JsonSerializer.Serialize(new Dictionary<string, object?>
    {
        ["version"] = 1,
        ["plans"] = Sells?.Select(s => new { key = s.Key, title = s.Title }).ToList(),
        ["gates"] = Closed is { Count: > 0 } closed ? new[]
        {
            new { key = "members", title = "Members", covers = closed.Select(c => c.Contains(':', StringComparison.Ordinal) ? c : "path:" + c).ToList(),
                audience = Audience },
        } : null,
        ["redirects"] = Lands is { } lands ? new[] { new { key = "members-home", on = "sign-in", audience = "signed-in", to = lands, position = 50 } } : null,
        ["joining"] = Joining is { } way ? new { way } : null,
    }.Where(e => e.Value is not null).ToDictionary());

    /// <summary>What of it is in the settings.</summary>
    public JsonElement Settings(JsonElement before)
    {
        var letters = before.GetProperty("letters");
        return JsonSerializer.SerializeToElement(new Dictionary<string, object?>
        {
            ["siteName"] = Name, ["language"] = Language, ["timeZone"] = TimeZone,
            ["letters"] = SignIn is null && Notices is null ? null : new
            {
                signIn = SignIn is null ? letters.GetProperty("signIn").GetBoolean() : SignIn == "letter", codes = letters.GetProperty("codes").GetBoolean(),
                noticesTo = Notices ?? (letters.TryGetProperty("noticesTo", out var to) ? to.GetString() : null), hold = letters.GetProperty("hold")
                    .GetBoolean(),
            },
        }.Where(e => e.Value is not null).ToDictionary());
    }

    private static List<string> Many(YamlNode node) => node is YamlSequenceNode list ? [.. list.Select(n => n.ToString())] : [node.ToString()];

    private static List<Sold> Sales(string path, YamlNode node) => node is not YamlSequenceNode list
        ? throw new UsageException($"{path}:{node.Start.Line}: “sells” is a list of memberships.")
        : [.. list.Select(n => n is YamlMappingNode map && map.Children.TryGetValue("title", out var title)
            ? new Sold(map.Children.TryGetValue("key", out var key) ? key.ToString() : KeyOf(title.ToString()), title.ToString())
            : new Sold(KeyOf(n.ToString()), n.ToString()))];

    private static string KeyOf(string title) => string.Join('-', new string([.. title.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) ? c : ' ')])
        .Split(' ', StringSplitOptions.RemoveEmptyEntries));
}
