using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>Where accounts stand: suspended, let back in, ended, erased; and what staff note of them.</summary>
public static class AccountCommands
{
    /// <summary>Longest words to a member who is suspended, in characters.</summary>
    public const int LongestWords = 500;

    /// <summary>Longest note, in characters.</summary>
    public const int LongestNote = 2000;

    /// <summary>Most notes on one member.</summary>
    public const int MostNotes = 500;

    private const int MostNamed = 5;

    /// <summary>Changes where an account stands. The last active owner stays active. Saying the same again changes nothing.</summary>
    /// <param name="member">Whose account.</param>
    /// <param name="status">Where it is to stand.</param>
    /// <param name="words">What they read of it when they sign in.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="now">The time.</param>
    public static Outcome<Edit<Member>> SetStatus(Member? member, MemberStatus status, string? words, string by, DateTimeOffset now)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        words = string.IsNullOrWhiteSpace(words) ? null : words.Trim();
        if (words is not null && (words.Length > LongestWords || !PlainText.IsClean(words, true)))
        {
            return Problem.In("words", "status-words", LongestWords);
        }

        if (status == MemberStatus.Active && member.PasswordHash is null)
        {
            return Problem.In("status", "no-password-yet");
        }

        if (status == member.Status && (words is null || words == member.Cause?.Words))
        {
            return new Edit<Member>(new Edit("member.status", member.Email, []), member);
        }

        var after = member with { Status = status, Cause = new StatusCause(now, by, words), Version = member.Version + 1 };
        var changes = new List<Change> { new MemberSet(after, member.Version) };
        changes.AddRange(status != MemberStatus.Active ? [new SessionsEnded(member.Id), new LinksClosed(null, member.Id, null, LinkEnd.Withdrawn)] : []);
        changes.AddRange(GrantCommands.Guard(member, after, now));
        var said = words is null ? status.ToString() : $"{status}: {words}";
        return new Edit<Member>(new Edit("member.status", member.Email, changes, member.Status.ToString(), said), after);
    }

    /// <summary>
    /// Erases a member: who they were is gone; that there was somebody, and what was done to them and when, stays under a tag. Somebody whom a gate or a
    /// redirect names is not erased: it would let in whoever takes that address next.
    /// </summary>
    /// <param name="policy">The policy, which may name them.</param>
    /// <param name="member">Who.</param>
    /// <param name="now">Now.</param>
    /// <param name="farewell">Writes the last letter to them; null where none is sent.</param>
    public static Outcome<Edit<Member>> Erase(Policy policy, Member? member, DateTimeOffset now, Func<Member, Change>? farewell = null)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (Naming(policy, member) is { } named)
        {
            return named;
        }

        var tag = TagOf(member.Id);
        var gone = member with { Status = MemberStatus.Closed, Version = member.Version + 1 };
        IEnumerable<Change> changes =
        [
            new MemberTouched(member.Id, member.Version), .. GrantCommands.Guard(member, gone, now), new MemberErased(member.Id, member.Email, tag),
            .. farewell is null ? [] : new[] { farewell(member) },
        ];
        return new Edit<Member>(new Edit("member.erase", tag, [.. changes]), gone);
    }

    /// <summary>Says in which language somebody is written to (null for the site's), and whether they get more than the letters that have to be.</summary>
    public static Outcome<Edit<Member>> SetLetters(Member? member, string? language, bool unsubscribed)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (language is not null && !Spelling.IsLanguage(language))
        {
            return Problem.In("language", "language", language);
        }

        if (member.Language == language && member.IsUnsubscribed == unsubscribed)
        {
            return new Edit<Member>(new Edit("member.letters", member.Email, []), member);
        }

        var after = member with { Language = language, IsUnsubscribed = unsubscribed, Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit("member.letters", member.Email, [new MemberSet(after, member.Version)], WishOf(member), WishOf(after)), after);
    }

    private static string WishOf(Member member) => (member.Language ?? "-") + (member.IsUnsubscribed ? ", unsubscribed" : "");

    /// <summary>What names a member by their address, so that whoever takes that address next would be let in; null where nothing does.</summary>
    internal static Problem? Naming(Policy policy, Member member)
    {
        var asking = policy.Gates.Select(g => new NamedAudience("gate", g.Key, g.Audience)).Concat(policy.Parts.All.SelectMany(p => p.Audiences))
            .Concat(policy.Rules.Written.Select(r => new NamedAudience("group", r.Key, r.Value)));
        var naming = asking.Where(n => n.Audience.Atoms().Any(a => a is Audience.Fact { Kind: FactKind.Member } named && named.Key == member.Email))
            .Select(n => $"{n.Kind} {n.Key}").ToList();
        return naming.Count > 0 ? Problem.Of(ProblemKind.Conflict, "member-named", member.Email, string.Join(", ", naming.Take(MostNamed))) : null;
    }

    /// <summary>Notes something of a member.</summary>
    public static Outcome<Edit<MemberNote>> Note(Member? member, string? text, int there, string by, DateTimeOffset now)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        text = text?.Trim() ?? "";
        if (text.Length is 0 or > LongestNote || !PlainText.IsClean(text, true))
        {
            return Problem.In("text", "note-text", LongestNote);
        }

        if (there >= MostNotes)
        {
            return Problem.Of(ProblemKind.Conflict, "note-many", member.Email, MostNotes);
        }

        var note = new MemberNote(Guid.CreateVersion7(), member.Id, now, by, text);
        return new Edit<MemberNote>(new Edit("member.note", member.Email, [new NoteAdded(note)]), note);
    }

    /// <summary>Drops a note.</summary>
    public static Outcome<Edit<MemberNote>> DropNote(Member? member, MemberNote? note) => member is null || note is null || note.Member != member.Id
        ? Problem.Of(ProblemKind.NotFound, member is null ? "member-unknown" : "note-unknown")
        : new Edit<MemberNote>(new Edit("member.note-drop", member.Email, [new NoteDropped(note.Id)]), note);

    /// <summary>The name under which the audit trail speaks of somebody who was erased.</summary>
    public static string TagOf(Guid member) => "erased:" + member.ToString("N")[^12..];
}
