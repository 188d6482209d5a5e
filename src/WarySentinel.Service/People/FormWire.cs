using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People.Forms;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Fields, forms, answers and requests, between the wire and the rules.</summary>
public static class FormWire
{
    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.FieldDraft ToCore(this Wire.FieldDraft draft) => new()
    {
        Key = draft.Key, Kind = draft.Kind, Label = draft.Label, Help = OrNull(draft.Help), Placeholder = OrNull(draft.Placeholder),
        Message = OrNull(draft.Message), Options = draft.Options is { Count: > 0 } options ? [.. options.Select(o => new Rules.OptionDraft(o?.Key,
            o?.Label))] : null,
        Shortest = draft.Shortest, Longest = draft.Longest, Pattern = OrNull(draft.Pattern), Format = OrNull(draft.Format), Least = OrNull(draft.Least),
        Most = OrNull(draft.Most), Country = OrNull(draft.Country), Types = draft.Types is { Count: > 0 } types ? [.. types] : null,
        Kilobytes = draft.Kilobytes,
        Profile = OrNull(draft.Profile), Position = draft.Position,
        In = draft.In?.ToDictionary(p => p.Key, p => p.Value is null ? new Rules.FieldWords()
            : new Rules.FieldWords(OrNull(p.Value.Label), OrNull(p.Value.Help), OrNull(p.Value.Placeholder), OrNull(p.Value.Message), p.Value.Options)),
    };

    /// <summary>A field as it is told.</summary>
    public static Wire.FieldDraft ToWire(this Rules.FieldDraft draft) => new()
    {
        Key = draft.Key, Kind = draft.Kind ?? FieldNames.Kinds[0], Label = draft.Label, Help = draft.Help, Placeholder = draft.Placeholder,
        Message = draft.Message, Options = draft.Options?.Select(o => new Wire.OptionDraft(o.Key, o.Label)).ToList(), Shortest = draft.Shortest,
        Longest = draft.Longest, Pattern = draft.Pattern, Format = draft.Format, Least = draft.Least, Most = draft.Most, Country = draft.Country,
        Types = draft.Types, Kilobytes = draft.Kilobytes, Profile = draft.Profile, Position = draft.Position,
        In = draft.In?.ToDictionary(p => p.Key, p => new Wire.FieldWords(p.Value.Label, p.Value.Help, p.Value.Placeholder, p.Value.Message, p.Value.Options)),
    };

    /// <summary>A field, and what uses it.</summary>
    public static FieldView ToView(this Field field, FormBook book) => new(
        field.Draft.ToWire(), [.. book.Forms.Where(f => f.Find(field.Key) is not null).Select(f => f.Key)], book.VersionOf(field.Key));

    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.FormDraft ToCore(this Wire.FormDraft draft) => new()
    {
        Key = draft.Key, Title = OrNull(draft.Title), Lead = OrNull(draft.Lead), Button = OrNull(draft.Button), Done = OrNull(draft.Done),
        Way = OrNull(draft.Way),
        Confirm = draft.Confirm, LeadsTo = OrNull(draft.LeadsTo), Steps = draft.Steps, Unlisted = draft.Unlisted, Position = draft.Position,
        Sections = draft.Sections?.Select(s => s is null ? null! : new Rules.SectionDraft
        {
            Title = OrNull(s.Title), Lead = OrNull(s.Lead), ShownIf = s.ShownIf.ToCore(),
            Fields = s.Fields?.Select(f => new Rules.PlacedDraft(f?.Field, f?.Required == true, f?.ShownIf.ToCore())).ToList(),
        }).ToList(),
        Grants = draft.Grants?.Select(g => new Rules.FormGrantDraft(g?.Grant, g?.When.ToCore(), g?.Days, g?.AfterApproval == true)).ToList(),
        Approves = draft.Approves is { } approves ? new Rules.FormApprovalDraft(approves.Domains, approves.Addresses, approves.When.ToCore()) : null,
        Terms = draft.Terms is null ? null : [.. draft.Terms.Select(t => t ?? "")],
        In = draft.In?.ToDictionary(p => p.Key, p => p.Value is null ? new Rules.FormWords() : new Rules.FormWords(
            OrNull(p.Value.Title), OrNull(p.Value.Lead), OrNull(p.Value.Button), OrNull(p.Value.Done),
            p.Value.Sections?.Select(s => new Rules.SectionWords(OrNull(s?.Title), OrNull(s?.Lead))).ToList())),
    };

    /// <summary>A form as it is told.</summary>
    public static Wire.FormDraft ToWire(this Rules.FormDraft draft) => new()
    {
        Key = draft.Key, Title = draft.Title, Lead = draft.Lead, Button = draft.Button, Done = draft.Done, Way = draft.Way, Confirm = draft.Confirm,
        LeadsTo = draft.LeadsTo, Steps = draft.Steps, Unlisted = draft.Unlisted, Position = draft.Position,
        Sections = draft.Sections?.Select(s => new Wire.SectionDraft
        {
            Title = s.Title, Lead = s.Lead, ShownIf = s.ShownIf.ToWire(),
            Fields = s.Fields?.Select(f => new Wire.PlacedDraft(f.Field, f.Required, f.ShownIf.ToWire())).ToList(),
        }).ToList(),
        Grants = draft.Grants?.Select(g => new Wire.FormGrantDraft(g.Grant, g.When.ToWire(), g.Days, g.AfterApproval)).ToList(),
        Approves = draft.Approves is { } approves ? new Wire.FormApprovalDraft(approves.Domains, approves.Addresses, approves.When.ToWire()) : null,
        Terms = draft.Terms,
        In = draft.In?.ToDictionary(p => p.Key, p => new Wire.FormWords(
            p.Value.Title, p.Value.Lead, p.Value.Button, p.Value.Done, p.Value.Sections?.Select(s => new Wire.SectionWords(s.Title, s.Lead)).ToList())),
    };

    private static Rules.ConditionDraft? ToCore(this Wire.ConditionDraft? draft) => draft is null ? null : new Rules.ConditionDraft
    {
        All = draft.All?.Select(c => c.ToCore()!).ToList(), Any = draft.Any?.Select(c => c.ToCore()!).ToList(), Not = draft.Not.ToCore(), Field = draft.Field,
        Is = draft.Is, Given = draft.Given, AtLeast = OrNull(draft.AtLeast), AtMost = OrNull(draft.AtMost),
    };

    private static Wire.ConditionDraft? ToWire(this Rules.ConditionDraft? draft) => draft is null ? null : new Wire.ConditionDraft
    {
        All = draft.All?.Select(c => c.ToWire()!).ToList(), Any = draft.Any?.Select(c => c.ToWire()!).ToList(), Not = draft.Not.ToWire(), Field = draft.Field,
        Is = draft.Is, Given = draft.Given, AtLeast = draft.AtLeast, AtMost = draft.AtMost,
    };

    /// <summary>What somebody answered, as it is told.</summary>
    public static IReadOnlyList<AnswerView> ToWire(this IReadOnlyList<FieldAnswer> answers, FormBook book, IReadOnlyList<FileNamed> files) =>
    [
        .. answers.OrderBy(a => book.FindField(a.Field)?.Draft.Position ?? FormBook.UsualPosition).Select(a =>
        {
            var file = files.FirstOrDefault(f => a.Values.Contains(f.Id.ToString("N")));
            return new AnswerView(
                a.Field, AnswerWords.LabelOf(book, a.Field), a.Values, file?.Name ?? AnswerWords.Of(book, a, w => PageWords.Of("answer." + w)),
                file is null ? null : new AnswerFileView(file.Id, file.Name, file.Size));
        }),
    ];

    /// <summary>A request as it is told.</summary>
    public static RequestView ToWire(this RequestOf asked, Policy policy, IReadOnlyList<AnswerView> answers, int nearby)
    {
        var (request, member, book) = (asked.Request, asked.Member, FormBook.Of(policy));
        return new RequestView(
            request.Id, member.Id, member.Email, member.Name, request.Form, book.Find(request.Form)?.Draft.Title ?? request.Form, request.At,
            JoinRequest.States[(int)request.State], answers, [.. request.Signs.Select(s => new SignView(s.Kind, Wording.Of("sign." + s.Kind,
                s.Seen).ToReader()))],
            [.. request.Grants.Select(g => g.Fact)], request.Words, request.DecidedAt, request.By, nearby);
    }

    /// <summary>What a form gives, in sentences.</summary>
    public static IReadOnlyList<string> GivesOf(Rules.FormDraft draft, FormBook book) =>
    [
        .. (draft.Grants ?? []).Select(g => Wording.Of(
            g.When is null ? "form.gives" : "form.gives-if", g.Grant, g.When is null ? null : ConditionSentence.Of(g.When, book),
            Wording.Of(g.Days is null ? "form.gives-always" : "form.gives-days", g.Days), Wording.Of(g.AfterApproval ? "form.gives-later" : "form.gives-now"))
            .ToReader()),
    ];

    /// <summary>A text as it was sent; null where it says nothing.</summary>
    internal static string? OrNull(string? text) => string.IsNullOrWhiteSpace(text) ? null : text;
}
