using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Letters;
using WarySentinel.Core.People;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Letters;

/// <summary>Writes a letter of the owner's own words to each of many members.</summary>
public sealed class TellMembers(ILetters letters) : IBulkAct, IMemberLetters
{
    private const int LongestText = 10_000;
    private const int LongestSubject = 200;

    /// <inheritdoc/>
    public string Name => "tell";

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) => FaultOf(draft.Subject, draft.Text);

    /// <inheritdoc/>
    public Problem? FaultOf(string? subject, string? text)
    {
        var faults = new Faults();
        faults.Unless(subject?.Trim() is { Length: > 0 and <= LongestSubject } && PlainText.IsClean(subject), "subject", "title-length",
            LongestSubject);
        faults.Unless(text?.Trim() is { Length: > 0 and <= LongestText } && PlainText.IsClean(text, true), "text", "letter-text", LongestText);
        return faults.Any ? faults.ToProblem() : null;
    }

    /// <inheritdoc/>
    public Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) =>
        Task.FromResult(For(member, draft));

    private Outcome<Edit> For(Member member, BulkDraft draft)
    {
        if (member.Status is MemberStatus.Closed)
        {
            return Problem.Of(ProblemKind.Conflict, "letter-closed", member.Email);
        }

        if (member.IsUnsubscribed)
        {
            return Problem.Of(ProblemKind.Conflict, "letter-unsubscribed", member.Email);
        }

        return new Edit("letter.write", member.Email, [Write(member, draft.Subject!, draft.Text!)], null, In(draft.Subject!, member));
    }

    /// <inheritdoc/>
    public Change Write(Member member, string subject, string text) =>
        letters.Write(LetterKinds.Told, LetterReader.Of(member), ("subject", In(subject, member)), ("text", In(text, member)));

    private static string In(string text, Member member) => text.Trim().Replace("{name}", member.Name, StringComparison.Ordinal);
}
