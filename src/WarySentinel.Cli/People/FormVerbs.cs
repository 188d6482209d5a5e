using System.CommandLine;
using System.Text.Json;
using Spectre.Console;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using static WarySentinel.Cli.Gates.GateVerbs;

namespace WarySentinel.Cli.People;

/// <summary><c>wary field list|set|order|remove|erase</c> and <c>wary form list|show|set|order|try|remove</c>.</summary>
internal static class FormVerbs
{
    private static readonly Argument<string> Key = new("key") { Description = "Its key." };
    private static readonly Argument<string[]> Keys = new("keys")
    { Description = "What comes first, by its keys in their order; the others stay behind as they stood.", Arity = ArgumentArity.OneOrMore };

    private static readonly Argument<FileInfo> File = new("file") { Description = "A file of JSON, as “wary form show KEY --json” gives it." };
    private static readonly Argument<string[]> Answers = new("answers")
    { Description = "Answers, such as trade=yes country=PT; a field may stand several times.", Arity = ArgumentArity.ZeroOrMore };

    private static readonly Option<string?> Label = new("--label") { Description = "What people read beside it; a new field needs it." };
    private static readonly Option<string?> Kind = new("--kind")
    { Description = "text, long-text, one-of, several-of, yes-no, number, date, country, phone, address, url, file or consent (usual: text)." };

    private static readonly Option<string[]> Options = new("--option") { Description = "What can be chosen: key=label; say it several times." };
    private static readonly Option<string?> Help = new("--help-line") { Description = "A line beneath it." };
    private static readonly Option<string?> Format = new("--format") { Description = "What a line of text has to be: vat, iban, postal-code or email." };
    private static readonly Option<string?> Pattern = new("--pattern") { Description = "A regular expression that the whole text has to match." };
    private static readonly Option<string?> Message = new("--message") { Description = "What is said where an answer is not taken." };
    private static readonly Option<string?> Least = new("--least") { Description = "The least number, first day, or fewest options." };
    private static readonly Option<string?> Most = new("--most") { Description = "The greatest number, last day, or most options." };
    private static readonly Option<string?> Country = new("--country") { Description = "The country of numbers without one (ISO 3166-1, such as PT)." };
    private static readonly Option<int?> Shortest = new("--shortest") { Description = "The fewest characters of a text." };
    private static readonly Option<int?> Longest = new("--longest") { Description = "The most characters of a text." };
    private static readonly Option<int?> Kilobytes = new("--kilobytes") { Description = "The largest file that is taken (usual: 2048)." };
    private static readonly Option<string[]> Types = new("--type") { Description = "A kind of file that is taken: pdf, png, jpg, gif, zip, txt." };
    private static readonly Option<string?> Profile = new("--profile")
    {
        Description =
        "What a member does with it in their profile: hidden, shown, editable."
    };
    private static readonly Option<string?> Email = new("--email") { Description = "Who sends it, for what the address decides." };
    private static readonly Option<bool> Yes = new("--yes") { Description = "Erase without asking." };

    public static IEnumerable<Command> Build()
    {
        var field = new Command("field", "Fields: what people are asked, in forms and in their profiles.");
        field.Subcommands.Add(new Command("list", "All fields, in their order.").Does(ListFieldsAsync));
        field.Subcommands.Add(With(
            new Command("set", "Add a field, or change one."), Key, Label, Kind, Options, Help, Format, Pattern, Message, Least, Most, Country, Types,
                Profile, Shortest, Longest, Kilobytes)
            .Does(SetFieldAsync));
        field.Subcommands.Add(With(new Command("order", "Put fields into an order."), Keys).Does(
            async call => ListFields(call, await call.Client.OrderFieldsAsync(call.Get(Keys)!, call.Stop))));
        field.Subcommands.Add(With(new Command("remove", "Remove a field that no form uses. What was answered to it stays."), Key).Does(async call =>
        {
            await call.Client.RemoveFieldAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the field [bold]{Markup.Escape(call.Get(Key))}[/]; its answers stay.");
        }));
        field.Subcommands.Add(With(new Command("erase", "Erase what everybody answered a field."), Key, Yes).Does(EraseAsync));
        yield return field;

        var form = new Command("form", "Forms by which people join, each with its address.");
        form.Subcommands.Add(new Command("list", "All forms; the first is the one at the plain address.").Does(ListFormsAsync));
        form.Subcommands.Add(With(new Command("show", "What a form asks and gives."), Key).Does(ShowAsync));
        form.Subcommands.Add(With(new Command("set", "Add a form, or change one, from a file of JSON."), Key, File).Does(SetAsync));
        form.Subcommands.Add(With(new Command("order", "Put forms into an order; the first is the one at the plain address."), Keys).Does(
            async call => ListForms(call, await call.Client.OrderFormsAsync(call.Get(Keys)!, call.Stop))));
        form.Subcommands.Add(With(
            new Command("try", "Say what would become of a form with these answers. Nothing is changed. Exit code 1 where they are not taken."),
            Key, Answers, Email).Does(TryAsync));
        form.Subcommands.Add(With(new Command("remove", "Remove a form. Who came by it stays."), Key).Does(async call =>
        {
            await call.Client.RemoveFormAsync(call.Get(Key), call.Stop);
            return call.Out.Say(new { removed = call.Get(Key) }, $"Removed the form [bold]{Markup.Escape(call.Get(Key))}[/].");
        }));
        yield return form;
    }

    /// <summary>Answers as they are typed on a command line.</summary>
    internal static IReadOnlyDictionary<string, IReadOnlyList<string>> AnswersOf(IEnumerable<string> typed) => typed
        .Select(t => t.Split('=', 2)).GroupBy(t => t[0], StringComparer.Ordinal)
        .ToDictionary(g => g.Key, IReadOnlyList<string> (g) => [.. g.Select(t => t.ElementAtOrDefault(1) ?? "").Where(v => v.Length > 0)],
            StringComparer.Ordinal);

    private static async Task<int> ListFieldsAsync(Call call) => ListFields(call, await call.Client.FieldsAsync(call.Stop));

    private static int ListFields(Call call, IReadOnlyList<FieldView> fields) => call.Out.Table(
        fields, "No fields yet.", ("key", f => f.Field.Key ?? ""), ("kind", f => f.Field.Kind ?? "text"),
        ("label", f => f.Field.Label ?? ""), ("profile", f => f.Field.Profile ?? "hidden"), ("forms", f => string.Join(", ", f.Forms)));

    private static async Task<int> SetFieldAsync(Call call)
    {
        var options = (call.Get(Options) ?? []).Select(o => o.Split('=', 2)).Select(o => new OptionDraft(o[0], o.ElementAtOrDefault(1) ?? o[0])).ToList();
        // What is not said stays: words in other languages and the place in the order, too.
        var was = (await call.Client.FieldsAsync(call.Stop)).Select(f => f.Field).FirstOrDefault(f => f.Key == call.Get(Key)) ?? new FieldDraft();
        was = call.Get(Kind) is { } kind && kind != (was.Kind ?? "text") ? new FieldDraft { Label = was.Label } : was;
        var draft = was with
        {
            Key = call.Get(Key),
            Label = call.Get(Label) ?? was.Label,
            Kind = call.Get(Kind) ?? was.Kind,
            Options = options.Count > 0 ? options : was.Options,
            Help = call.Get(Help) ?? was.Help,
            Format = call.Get(Format) ?? was.Format,
            Pattern = call.Get(Pattern) ?? was.Pattern,
            Message = call.Get(Message) ?? was.Message,
            Least = call.Get(Least) ?? was.Least,
            Most = call.Get(Most) ?? was.Most,
            Country = call.Get(Country) ?? was.Country,
            Types = call.Get(Types) is { Length: > 0 } types ? types : was.Types,
            Profile = call.Get(Profile) ?? was.Profile,
            Shortest = call.Get(Shortest) ?? was.Shortest,
            Longest = call.Get(Longest) ?? was.Longest,
            Kilobytes = call.Get(Kilobytes) ?? was.Kilobytes,
        };
        var put = await call.Client.PutFieldAsync(call.Get(Key), draft, call.Stop);
        return call.Out.Say(put, $"The field [bold]{Markup.Escape(call.Get(Key))}[/] asks: {Markup.Escape(put.Field.Label ?? "")}.");
    }

    private static async Task<int> EraseAsync(Call call)
    {
        if (!call.Get(Yes))
        {
            return call.Out.Fail(2, "erase-unsure", "What people answered is gone by it, and does not come back. Say --yes to do it.", []);
        }

        var erased = await call.Client.EraseAnswersAsync(call.Get(Key), call.Stop);
        return call.Out.Say(erased, $"Erased the answers of {erased.Answers} members.");
    }

    private static async Task<int> ListFormsAsync(Call call) => ListForms(call, await call.Client.FormsAsync(call.Stop));

    private static int ListForms(Call call, IReadOnlyList<FormView> forms) => call.Out.Table(
        forms, "No forms yet: people join by the plain one, where the settings let them.", ("key", f => f.Form.Key ?? ""),
        ("title", f => f.Form.Title ?? ""), ("way", f => f.Broken is null ? f.Form.Way ?? "as the site" : "cannot be read"), ("address", f => f.Address));

    private static async Task<int> ShowAsync(Call call)
    {
        var form = await call.Client.FormAsync(call.Get(Key), call.Stop);
        return call.Out.Give(form.Form, to =>
        {
            to.MarkupLine($"[bold]{Markup.Escape(form.Form.Title ?? "")}[/]  {Markup.Escape(form.Address)}");
            foreach (var (section, place) in (form.Form.Sections ?? []).Select((s, i) => (s, i)))
            {
                to.WriteLine($"{place + 1}. {section.Title}{(section.ShownIf is null ? "" : " (only if)")}");
                foreach (var placed in section.Fields ?? [])
                {
                    to.WriteLine($"   {placed.Field}{(placed.Required ? ", required" : "")}{(placed.ShownIf is null ? "" : ", only if")}");
                }
            }

            foreach (var line in form.Gives.Append(form.Broken).OfType<string>())
            {
                to.WriteLine(line);
            }
        });
    }

    private static async Task<int> SetAsync(Call call)
    {
        FormDraft? draft;
        try
        {
            draft = JsonSerializer.Deserialize<FormDraft>(await System.IO.File.ReadAllTextAsync(call.Get(File).FullName, call.Stop), ApiJson.Options);
        }
        catch (Exception fault) when (fault is IOException or JsonException or UnauthorizedAccessException)
        {
            return call.Out.Fail(2, "form-file", $"{call.Get(File)} cannot be read: {fault.Message}", []);
        }

        var put = await call.Client.PutFormAsync(call.Get(Key), draft ?? new FormDraft(), call.Stop);
        return call.Out.Say(put, $"The form [bold]{Markup.Escape(call.Get(Key))}[/] stands at {Markup.Escape(put.Address)}");
    }

    private static async Task<int> TryAsync(Call call)
    {
        var tried = await call.Client.TryFormAsync(call.Get(Key), new FormTryDraft(AnswersOf(call.Get(Answers) ?? []), Email: call.Get(Email)), call.Stop);
        call.Out.Give(tried, to =>
        {
            to.WriteLine("Asks: " + string.Join(", ", tried.Shown));
            tried.Faults.ToList().ForEach(f => to.MarkupLine($"[red]{Markup.Escape(f.Field)}[/]: {Markup.Escape(f.Message)}"));
            to.WriteLine("Gives: " + (tried.Grants.Count == 0 ? "nothing" : string.Join(", ", tried.Grants)));
            to.WriteLine(tried.NeedsApproval ? "Staff say yes first." : "Nobody has to say yes.");
        });
        return tried.Faults.Count == 0 ? 0 : 1;
    }
}
