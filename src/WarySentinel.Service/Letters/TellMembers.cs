using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Letters;

/// <summary>Writes a letter to each of many members.</summary>
public sealed class TellMembers(Envelopes envelopes) : IBulkAct
{
    private const int LongestText = 10_000;
    private const int LongestSubject = 200;

    /// <inheritdoc/>
    public string Name => "tell";

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now)
    {
        var faults = new Faults();
        faults.Unless(draft.Subject?.Trim() is { Length: > 0 and <= LongestSubject } subject && PlainText.IsClean(subject), "subject", "title-length",
            LongestSubject);
        faults.Unless(draft.Text?.Trim() is { Length: > 0 and <= LongestText } text && PlainText.IsClean(text, true), "text", "letter-text", LongestText);
        return faults.Any ? faults.ToProblem() : null;
    }

    /// <inheritdoc/>
    public Outcome<Edit> For(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now)
    {
        if (member.Status is MemberStatus.Closed)
        {
            return Problem.Of(ProblemKind.Conflict, "letter-closed", member.Email);
        }

        string In(string text) => text.Trim().Replace("{name}", member.Name, StringComparison.Ordinal);
        return new Edit("letter.write", member.Email, [envelopes.Queue(member.Email, In(draft.Subject!), In(draft.Text!))], null, In(draft.Subject!));
    }
}
