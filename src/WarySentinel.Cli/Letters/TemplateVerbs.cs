using System.CommandLine;
using Spectre.Console;
using WarySentinel.Contract.Letters;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.Letters;

/// <summary>
/// <c>wary letter template list|show|pull|push|preview|reset</c>. As files, a template is <c>KIND.LANGUAGE.subject.liquid</c> with
/// <c>KIND.LANGUAGE.html.liquid</c>, <c>KIND.LANGUAGE.text.liquid</c> or both beside it.
/// </summary>
internal static class TemplateVerbs
{
    private const string Suffix = ".liquid";
    private static readonly Argument<string> Kind = new("kind") { Description = "The letter, such as invitation." };
    private static readonly Option<string> Language = new("--language") { Description = "The language.", DefaultValueFactory = _ => "en" };
    private static readonly Option<string?> Member = new("--member") { Description = "Whose letter is shown; made-up values unless said." };
    private static readonly Argument<DirectoryInfo> Folder = new("folder") { Description = "The folder of the files." };
    private static readonly Option<bool> Ours = new("--all") { Description = "Those that come with the service, too." };

    public static Command Build()
    {
        var template = new Command("template", "The words of letters.");
        template.Subcommands.Add(new Command("list", "The letters there are.").Does(async call => call.Out.Table(
            await call.Client.LetterKindsAsync(call.Stop), "", ("letter", k => k.Key), ("when", k => k.About), ("your words", k => string.Join(", ", k.Own)),
            ("ours", k => string.Join(", ", k.Ours)))));
        template.Subcommands.Add(With(With(new Command("show", "A letter's template, and the names that it knows."), Kind), Language).Does(ShowAsync));
        template.Subcommands.Add(With(With(new Command("pull", "Write your templates into files."), Folder), Ours).Does(PullAsync));
        template.Subcommands.Add(With(new Command("push", "Take templates from files; what is as it was changes nothing."), Folder).Does(PushAsync));
        template.Subcommands.Add(With(With(new Command("preview", "What becomes of a template."), Kind), Language, Member).Does(PreviewAsync));
        template.Subcommands.Add(With(With(new Command("reset", "Go back to the letter that comes with the service."), Kind), Language).Does(async call =>
        {
            var view = await call.Client.ResetLetterTemplateAsync(call.Get(Kind)!, call.Get(Language)!, call.Stop);
            return call.Out.Say(view, $"The letter “{view.Kind}” in {view.Language} is ours again.");
        }));
        return template;
    }

    private static async Task<int> ShowAsync(Call call)
    {
        var kinds = await call.Client.LetterKindsAsync(call.Stop);
        var (view, _) = await call.Client.LetterTemplateAsync(call.Get(Kind)!, call.Get(Language)!, call.Stop);
        return call.Out.Give(view, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(view.Subject)}[/] [grey]{(view.Own ? "your words" : "comes with the service")} · {view.From}[/]");
            to.WriteLine(view.Html ?? "");
            to.WriteLine(view.Text ?? "");
            foreach (var variable in kinds.First(k => k.Key == view.Kind).Variables)
            {
                var name = Markup.Escape($"{{{{ {variable.Name} }}}}");
                to.MarkupLine($"[grey]{name,-24}[/] {Markup.Escape(variable.About)}{(variable.Needed ? " (needed)" : "")}");
            }
        });
    }

    private static async Task<int> PullAsync(Call call)
    {
        var folder = Directory.CreateDirectory(call.Get(Folder)!.FullName).FullName;
        var written = 0;
        foreach (var kind in await call.Client.LetterKindsAsync(call.Stop))
        {
            foreach (var language in call.Get(Ours) ? kind.Own.Concat(kind.Ours).Distinct() : kind.Own)
            {
                var (view, _) = await call.Client.LetterTemplateAsync(kind.Key, language, call.Stop);
                foreach (var (part, text) in new[] { ("subject", view.Subject + "\n"), ("html", view.Html), ("text", view.Text) })
                {
                    var file = Path.Combine(folder, $"{kind.Key}.{language}.{part}{Suffix}");
                    if (text is not null)
                    {
                        await File.WriteAllTextAsync(file, text, call.Stop);
                    }
                    else if (File.Exists(file))
                    {
                        File.Delete(file);
                    }
                }

                written++;
            }
        }

        return call.Out.Say(new { written, folder }, written == 0 ? "You have no words of your own yet; --all writes ours." : $"Wrote {written} templates.");
    }

    private static async Task<int> PushAsync(Call call)
    {
        var folder = call.Get(Folder)!.FullName;
        var files = Directory.EnumerateFiles(folder, $"*.subject{Suffix}").Order(StringComparer.Ordinal).ToList();
        if (files.Count == 0)
        {
            throw new FileNotFoundException($"There is no template in {folder}: a file such as invitation.en.subject{Suffix} is missing.");
        }

        var changed = 0;
        foreach (var file in files)
        {
            var name = Path.GetFileName(file)[..^$".subject{Suffix}".Length];
            var dot = name.IndexOf('.', StringComparison.Ordinal);
            if (dot <= 0)
            {
                throw new FileNotFoundException($"“{Path.GetFileName(file)}” does not say its language: KIND.LANGUAGE.subject{Suffix}.");
            }

            var (kind, language) = (name[..dot], name[(dot + 1)..]);
            var draft = new LetterTemplateDraft(
                (await File.ReadAllTextAsync(file, call.Stop)).Trim(), await PartAsync(folder, name, "html", call.Stop),
                await PartAsync(folder, name, "text", call.Stop));
            var (view, tag) = await call.Client.LetterTemplateAsync(kind, language, call.Stop);
            if (view.From == language && view.Subject == draft.Subject && Same(view.Html, draft.Html) && Same(view.Text, draft.Text))
            {
                continue;
            }

            await call.Client.SetLetterTemplateAsync(kind, language, draft, tag!, call.Stop);
            changed++;
        }

        return call.Out.Say(new { changed, read = files.Count }, $"{changed} of {files.Count} templates changed.");
    }

    private static async Task<int> PreviewAsync(Call call)
    {
        var (view, _) = await call.Client.LetterTemplateAsync(call.Get(Kind)!, call.Get(Language)!, call.Stop);
        var shown = await call.Client.PreviewLetterAsync(
            view.Kind, view.Language, new LetterTemplateDraft(view.Subject, view.Html, view.Text, call.Get(Member)), call.Stop);
        return call.Out.Give(shown, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(shown.Subject)}[/]");
            to.WriteLine(shown.Text);
        });
    }

    private static bool Same(string? one, string? other) => (one ?? "").Trim() == (other ?? "").Trim();

    private static async Task<string?> PartAsync(string folder, string name, string part, CancellationToken cancellationToken)
    {
        var file = Path.Combine(folder, $"{name}.{part}{Suffix}");
        return File.Exists(file) ? await File.ReadAllTextAsync(file, cancellationToken) : null;
    }
}
