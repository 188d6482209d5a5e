using System.Globalization;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Access;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Letters;

/// <summary>A letter as it is written: subject, plain text, and HTML where there is any.</summary>
public sealed record WrittenLetter(string Subject, string Text, string? Html, string Language);

/// <summary>
/// Writes letters by their templates. A template that fails for somebody gives way to the letter that comes with the service: whoever waits for it gets
/// one.
/// </summary>
public sealed class LetterDesk(Envelopes envelopes, PolicyHolder policies, ServiceOptions options, ILogger<LetterDesk> log) : ILetters
{
    /// <inheritdoc/>
    public Change Write(string kind, LetterReader to, params IReadOnlyList<(string Name, string? Value)> values)
    {
        var settings = policies.Current.Settings;
        var letter = Compose(LetterBook.Of(policies.Current).Choose(kind, to.Language, settings.Language), Values(kind, to, values));
        return envelopes.Queue(to.Address, letter, LetterKinds.Get(kind));
    }

    /// <inheritdoc/>
    public IReadOnlyList<string> Languages =>
        [.. OurLetters.Languages.Concat(LetterBook.Of(policies.Current).All.Select(t => t.Language)).Distinct().Order(StringComparer.Ordinal)];

    /// <inheritdoc/>
    public IEnumerable<(string Key, string Title)> UntoldIn(string language) => LetterBook.Of(policies.Current).All.GroupBy(t => t.Kind)
        .Where(k => k.All(t => t.Language != language) && OurLetters.Find(k.Key, language.Split('-')[0]) is null)
        .Select(k => (k.Key, LetterKinds.Get(k.Key).Title.ToReader()));

    /// <inheritdoc/>
    public string Day(DateTimeOffset at, string? language)
    {
        var settings = policies.Current.Settings;
        return new SiteDates(settings.TimeZone).SayIn(SiteCulture.Of(language ?? settings.Language), at, false);
    }

    /// <inheritdoc/>
    public string PageAt(string path) => Site + PageBook.Of(policies.Current).AddressOf(options.AccountPrefix, path);

    /// <inheritdoc/>
    public string PageOf(string address) => Site + address;

    /// <inheritdoc/>
    public string LinkTo(string path, string secret) => $"{PageAt(path)}?link={secret}";

    /// <summary>The names that a letter to somebody knows, and what stands for them.</summary>
    public IReadOnlyDictionary<string, string?> Values(string kind, LetterReader to, IReadOnlyList<(string Name, string? Value)> values)
    {
        var site = policies.Current.Settings.Language;
        var speech = TextBook.Of(policies.Current).SpokenIn(to.Language ?? site, site);
        var all = new Dictionary<string, string?>(StringComparer.Ordinal)
        {
            ["site.name"] = speech.FindOwn("site.name") ?? policies.Current.Settings.SiteName,
            ["site.url"] = Site, ["site.account"] = PageAt("/"),
        };
        foreach (var variable in LetterKinds.Get(kind).Variables)
        {
            all.TryAdd(variable.Name, null);
        }

        foreach (var (name, value) in new[] { ("member.name", to.Name), ("member.email", to.Address) }.Where(v => all.ContainsKey(v.Item1)))
        {
            all[name] = value;
        }

        foreach (var (name, value) in values.Where(v => all.ContainsKey(v.Name)))
        {
            all[name] = string.IsNullOrEmpty(value) ? null : value;
        }

        // A kind without answers has none in its template either.
        var book = FormBook.Of(policies.Current);
        foreach (var answer in to.Answers.Where(_ => LetterKinds.Get(kind).HasAnswers))
        {
            all[LetterKind.AnswerPrefix + answer.Field] = AnswerWords.Of(book, answer, w => speech["answer." + w], to.Language);
        }

        return all;
    }

    /// <summary>Answers as somebody might have given them, for a template to be tried with.</summary>
    public IReadOnlyList<FieldAnswer> SampleAnswers => [.. FormBook.Of(policies.Current).Fields.Where(f => f.Kind != FieldKind.File)
        .Select(f => new FieldAnswer(f.Key, [f.Options.Count > 0 ? f.Options[0] : f.Draft.Placeholder ?? f.Draft.Label!]))];

    /// <summary>A letter by a template; by ours where the owner's fails.</summary>
    public WrittenLetter Compose(ChosenTemplate chosen, IReadOnlyDictionary<string, string?> values)
    {
        try
        {
            return Render(chosen.Template, values);
        }
        catch (Exception fault) when (!chosen.IsOurs && fault is not OutOfMemoryException)
        {
            log.LogError("The template {Template} fails: {Reason}. The letter that comes with the service was sent instead", chosen.Template.Name,
                fault.Message);
            return Render(new LetterBook().Choose(chosen.Template.Kind, chosen.Template.Language, "en").Template, values);
        }
    }

    /// <summary>What becomes of a template. Throws what <see cref="Liquid.Render(string, IReadOnlyDictionary{string, string?}, bool)"/> throws.</summary>
    public WrittenLetter Render(LetterTemplate template, IReadOnlyDictionary<string, string?> values)
    {
        var subject = OneLine(Liquid.Render(template.Subject, values, false));
        var said = template.Html is null ? null : Liquid.Render(template.Html, values, true);
        var text = template.Text is null ? LetterText.Of(said!) : Liquid.Render(template.Text, values, false);
        var html = said is null ? null : LetterFrame.Dress(subject, said, template.Language, policies.Current.Settings, Site);
        return new WrittenLetter(subject, text, html, template.Language);
    }

    private string Site => options.SiteUrl.TrimEnd('/');

    /// <summary>A subject is one line: no name in it begins a header of its own.</summary>
    private static string OneLine(string text)
    {
        var line = string.Join(' ', text.Split(default(char[]), StringSplitOptions.RemoveEmptyEntries));
        line = new string([.. line.Where(c => !char.IsControl(c))]);
        return line.Length > TemplateCommands.LongestSubject ? line[..TemplateCommands.LongestSubject] : line;
    }
}
