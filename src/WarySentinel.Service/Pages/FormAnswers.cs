using System.Text.Json;
using WarySentinel.Core;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>What was typed into a form on a page: its answers, the files among them, and what is wrong.</summary>
public sealed class FormAnswers
{
    /// <summary>The largest form, with its files, in bytes.</summary>
    public const long MostBytes = 12 << 20;

    private const string Prefix = "f.";
    private readonly Dictionary<string, IReadOnlyList<string>> typed;
    private const string KeptPrefix = "kept.";
    private readonly Dictionary<string, Problem> badFiles = new(StringComparer.Ordinal);
    private readonly Dictionary<string, IReadOnlyList<string>> earlier = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string> kept = new(StringComparer.Ordinal);

    private FormAnswers(Dictionary<string, IReadOnlyList<string>> typed) => this.typed = typed;

    /// <summary>The form as it is filled.</summary>
    public FilledForm Filled { get; private set; } = null!;

    /// <summary>The files that are taken.</summary>
    public IReadOnlyList<AnswerFile> Files { get; private set; } = [];

    /// <summary>The name of a field's input.</summary>
    public static string NameOf(string field) => Prefix + field;

    /// <summary>The name of the input by which a file that was sent before is asked for again.</summary>
    public static string KeptNameOf(string field) => KeptPrefix + field;

    /// <summary>A file that was sent and need not be sent again: its secret and its name; null where there is none.</summary>
    public (string Secret, string Name)? KeptOf(string field) =>
        kept.TryGetValue(field, out var secret) && Files.FirstOrDefault(f => f.Field == field) is { } file ? (secret, file.Name) : null;

    /// <summary>The form was not taken: its files are kept, so that they need not be chosen again. One that cannot be kept has to be.</summary>
    public async Task KeepFilesAsync(PendingUploads uploads, string network, CancellationToken stop)
    {
        foreach (var file in Files)
        {
            if (!kept.ContainsKey(file.Field) && await uploads.KeepAsync(file, network, stop) is { } secret)
            {
                kept[file.Field] = secret;
            }

            if (!kept.ContainsKey(file.Field))
            {
                typed[file.Field] = earlier.GetValueOrDefault(file.Field) ?? [];
            }
        }
    }

    /// <summary>The form was taken: its files are kept no longer.</summary>
    public Task LetGoAsync(PendingUploads uploads, CancellationToken stop) => uploads.DropAsync(kept.Values, stop);

    /// <summary>Nothing typed, or what was answered before.</summary>
    public static FormAnswers Of(JoinForm form, IReadOnlyList<FieldAnswer> before)
    {
        var answers = new FormAnswers(before.ToDictionary(a => a.Field, a => a.Values, StringComparer.Ordinal));
        answers.Filled = FilledForm.Of(form, answers.TypedOf);
        return answers;
    }

    /// <summary>What a browser sent.</summary>
    /// <param name="form">The form.</param>
    /// <param name="sent">The fields of the body.</param>
    /// <param name="before">What was answered before, for files that stay.</param>
    /// <param name="uploads">Files that were sent before.</param>
    /// <param name="stop">Cancels.</param>
    public static async Task<FormAnswers> ReadAsync(
        JoinForm form, IFormCollection sent, IReadOnlyList<FieldAnswer> before, PendingUploads uploads, CancellationToken stop)
    {
        var answers = new FormAnswers(form.Placed.Where(p => p.Field.Kind != FieldKind.File).ToDictionary(
            p => p.Field.Key, IReadOnlyList<string> (p) => [.. sent[NameOf(p.Field.Key)].Select(v => v ?? "")], StringComparer.Ordinal));
        var files = new List<AnswerFile>();
        foreach (var field in form.Placed.Where(p => p.Field.Kind == FieldKind.File).Select(p => p.Field))
        {
            answers.earlier[field.Key] = answers.typed[field.Key] = before.FirstOrDefault(a => a.Field == field.Key)?.Values ?? [];
            if (sent.Files[NameOf(field.Key)] is { Length: > 0 } upload)
            {
                var read = await ReadAsync(field, upload, uploads.Now, stop);
                if (read.Problem is { } problem)
                {
                    answers.badFiles[field.Key] = problem;
                    continue;
                }

                files.Add(read.Value);
            }
            else if (sent[KeptNameOf(field.Key)].ToString() is { Length: > 0 } secret && await uploads.FindAsync(secret, field, stop) is { } file)
            {
                answers.kept[field.Key] = secret;
                files.Add(file);
            }
        }

        files.ForEach(f => answers.typed[f.Field] = [f.Id.ToString("N")]);

        answers.Filled = FilledForm.Of(form, answers.TypedOf);
        answers.Files = [.. files.Where(f => answers.Filled.Shows(f.Field))];
        return answers;
    }

    /// <summary>What was typed or chosen for a field.</summary>
    public IReadOnlyList<string> TypedOf(string field) => typed.GetValueOrDefault(field) ?? [];

    /// <summary>What is wrong with a field, in the words of whoever made the form; null where nothing is.</summary>
    public string? FaultOf(Field field, FieldWords words)
    {
        if (badFiles.TryGetValue(field.Key, out var bad) && Filled.Shows(field.Key))
        {
            return bad.Detail.ToReader();
        }

        var fault = Filled.Faults.FirstOrDefault(f => f.Field.Key == field.Key);
        return fault is null ? null : fault.IsMissing ? fault.Problem.Detail.ToReader() : words.Message ?? fault.Problem.Detail.ToReader();
    }

    /// <summary>Whether anything is wrong.</summary>
    public bool IsBad => Filled.Faults.Count > 0 || badFiles.Keys.Any(Filled.Shows);

    /// <summary>
    /// What the browser needs to show and hide fields by itself: the fields in the order in which they are evaluated, with their conditions. What decides on
    /// grants and on who comes in stays here.
    /// </summary>
    public static string RulesOf(JoinForm form) => JsonSerializer.Serialize(
        new
        {
            sections = (form.Draft.Sections ?? []).Select(s => Shown(s.ShownIf, form)),
            fields = form.Placed.Select(p => new
            {
                key = p.Field.Key, kind = FieldNames.Kinds[(int)p.Field.Kind], section = p.Section,
                shownIf = Shown(form.Draft.Sections![p.Section].Fields!.First(f => f.Field == p.Field.Key).ShownIf, form),
            }),
        },
        Detail.Written);

    /// <summary>A condition with its values in the spelling that answers are compared in.</summary>
    private static ConditionDraft? Shown(ConditionDraft? draft, JoinForm form) => draft is null ? null : draft with
    {
        All = draft.All?.Select(c => Shown(c, form)!).ToList(),
        Any = draft.Any?.Select(c => Shown(c, form)!).ToList(),
        Not = Shown(draft.Not, form),
        Is = draft.Field is null ? null : draft.Is?.Select(v => Plain(form, draft.Field, v)).ToList(),
        AtLeast = draft.AtLeast is null ? null : Plain(form, draft.Field!, draft.AtLeast),
        AtMost = draft.AtMost is null ? null : Plain(form, draft.Field!, draft.AtMost),
    };

    private static string Plain(JoinForm form, string field, string value) =>
        form.Find(field) is { } placed && AnswerReader.PlainOf(placed.Field, [value]) is { } plain ? plain.Values[0] : value;

    private static async Task<Outcome<AnswerFile>> ReadAsync(Field field, IFormFile upload, DateTimeOffset now, CancellationToken stop)
    {
        if (upload.Length > field.MostBytes)
        {
            return Problem.Of(ProblemKind.Invalid, "answer-file-large", field.MostBytes / 1024);
        }

        using var content = new MemoryStream((int)upload.Length);
        await upload.CopyToAsync(content, stop);
        return AnswerFile.Read(field, upload.FileName, content.ToArray(), now);
    }
}
