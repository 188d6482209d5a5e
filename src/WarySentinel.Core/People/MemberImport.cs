using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.People;

/// <summary>A member as a row of a file tells of them; a field that the file has not, or leaves empty, says nothing.</summary>
public sealed record ImportRow(int Line)
{
    /// <summary>What begins the name of a column that holds answers to a field.</summary>
    public const string AnswerPrefix = "answer.";

    /// <summary>The fields that a column can be, beside answers.</summary>
    public static readonly IReadOnlyList<string> Fields =
        ["email", "name", "first-name", "last-name", "user-name", "password-hash", "status", "roles", "groups", "plans", "joined", "until", "language"];

    /// <summary>The e-mail address.</summary>
    public string? Email { get; init; }

    /// <summary>The name to be greeted by.</summary>
    public string? Name { get; init; }

    /// <summary>A second name to sign in with.</summary>
    public string? UserName { get; init; }

    /// <summary>A hash of the password, in an open format.</summary>
    public Secret? PasswordHash { get; init; }

    /// <summary>Where the account stands.</summary>
    public string? Status { get; init; }

    /// <summary>Keys of roles.</summary>
    public IReadOnlyList<string> Roles { get; init; } = [];

    /// <summary>Keys of groups.</summary>
    public IReadOnlyList<string> Groups { get; init; } = [];

    /// <summary>Keys of plans.</summary>
    public IReadOnlyList<string> Plans { get; init; } = [];

    /// <summary>Since when they have been a member.</summary>
    public string? Joined { get; init; }

    /// <summary>When what the row gives ends.</summary>
    public string? Until { get; init; }

    /// <summary>The language that they are written to in (RFC 5646 tag).</summary>
    public string? Language { get; init; }

    /// <summary>What they answered, by the keys of fields; several answers are parted by <c>|</c>.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Answers { get; init; } = [];
}

/// <summary>What a row does.</summary>
public enum ImportEffect
{
    /// <summary>Nothing: it is so already.</summary>
    Same,
    /// <summary>Adds somebody.</summary>
    Fresh,
    /// <summary>Changes somebody who is there.</summary>
    Changed,
}

/// <summary>What comes of a row.</summary>
/// <param name="Member">The member as they are after it.</param>
/// <param name="Effect">What it does.</param>
/// <param name="Says">What changes, for people to read.</param>
public sealed record ImportStep(Member Member, ImportEffect Effect, string Says);

/// <summary>
/// Brings members in from rows. A row adds what it says to what is there and takes nothing away; said again, it changes nothing. Who has a password keeps
/// it.
/// </summary>
/// <param name="policy">Knows the roles, groups and plans.</param>
/// <param name="source">What the grants come from.</param>
/// <param name="mayMakeStaff">Whether staff rights may be given.</param>
/// <param name="isHash">Whether a password hash has a form that can be verified.</param>
/// <param name="now">The time.</param>
public sealed class MemberImport(Policy policy, GrantSource source, bool mayMakeStaff, Func<string, bool> isHash, DateTimeOffset now)
{
    /// <summary>What the grants come from, as it is written.</summary>
    public string Source => source.ToString();

    private static readonly char[] Formula = ['=', '+', '@', '-'];

    /// <summary>What a row does to who is there with its address, or why it cannot.</summary>
    /// <param name="row">The row.</param>
    /// <param name="there">Who is there; null where nobody is.</param>
    /// <param name="answered">What they have answered, where the row says any of that.</param>
    public Outcome<Edit<ImportStep>> Step(ImportRow row, Member? there, IReadOnlyList<FieldAnswer>? answered = null)
    {
        var faults = new Faults();
        var dates = SiteDates.ReadBoth(policy.Settings.TimeZone, row.Joined, row.Until, (field, code, values) =>
            faults.Bad(field == "from" ? "joined" : "until", code, values));
        var hash = row.PasswordHash?.Reveal();
        faults.Unless(hash is null || isHash(hash), "password-hash", "hash-form");
        faults.Unless(row.Name is not { Length: > 0 } name || !Formula.Contains(name[0]), "name", "formula", row.Name);
        var isStatus = MemberNames.TryStatus(row.Status?.ToLowerInvariant(), out var status);
        faults.Unless(row.Status is null || isStatus, "status", "not-one-of", row.Status, string.Join(", ", MemberNames.Statuses));
        faults.Unless(dates.From is null || dates.From <= now, "joined", "joined-later", row.Joined);
        faults.Unless(mayMakeStaff || !row.Roles.Any(r => StaffRights.IsStaffRole(policy, r)), "roles", "staff-role");
        var draft = new MemberDraft
        {
            Email = row.Email, Name = row.Name ?? there?.Name ?? row.Email?.Split('@')[0], UserName = row.UserName, Roles = row.Roles, Groups = row.Groups,
            Plans = row.Plans, Language = row.Language,
        };
        var read = MemberCommands.Read(policy, draft, there?.Id ?? Guid.CreateVersion7(), dates.From ?? now);
        if (read.Problem is { } problem)
        {
            faults.Take(problem);
        }

        var answers = AnswersOf(row, faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        answers.RemoveAll(a => answered?.Any(o => o.Field == a.Field && o.Values.SequenceEqual(a.Values)) == true);
        var grants = read.Value.Grants.Select(g => g with { Source = source, From = dates.From ?? now, Until = dates.Until }).ToList();
        return there is null ? Adding(read.Value with
        {
            Grants = grants,
            PasswordHash = row.PasswordHash,
            Status = isStatus ? status : hash is null ? MemberStatus.Invited : MemberStatus.Active,
        }, answers) : Changing(there, read.Value, row, (isStatus ? status : null, grants, answers));
    }

    /// <summary>The answers of a row, each as its field takes it.</summary>
    private List<FieldAnswer> AnswersOf(ImportRow row, Faults faults)
    {
        var answers = new List<FieldAnswer>();
        foreach (var (key, text) in row.Answers)
        {
            var field = FormBook.Of(policy).FindField(key);
            var read = field is null ? Problem.Of(ProblemKind.Invalid, "field-unknown", key)
                : field.Kind == FieldKind.File ? Problem.Of(ProblemKind.Invalid, "answer-file-only")
                : AnswerReader.Read(field, field.Kind == FieldKind.SeveralOf ? text.Split('|') : [text]);
            if (read.Problem is { } wrong)
            {
                faults.Take(ImportRow.AnswerPrefix + key, wrong);
            }
            else
            {
                answers.AddRange(read.Value.Count == 0 ? [] : [new FieldAnswer(key, read.Value)]);
            }
        }

        return answers;
    }

    private static Outcome<Edit<ImportStep>> Adding(Member fresh, List<FieldAnswer> answers)
    {
        if (fresh.Status == MemberStatus.Active && fresh.PasswordHash is null)
        {
            // Nobody can sign in without a password; they are asked to come in.
            fresh = fresh with { Status = MemberStatus.Invited };
        }

        var says = string.Join(", ", fresh.Grants.Select(g => g.Fact).Prepend(fresh.Name));
        return new Edit<ImportStep>(
            new Edit("member.import", fresh.Email, [new MemberAdded(fresh), .. First(fresh.Id, answers)], null, says), new ImportStep(fresh,
                ImportEffect.Fresh, says));
    }

    private static IEnumerable<Change> First(Guid member, List<FieldAnswer> answers) =>
        answers.Count == 0 ? [] : [new AnswersSet(member, answers) { AreFirst = true }];

    private Outcome<Edit<ImportStep>> Changing(
        Member there, Member read, ImportRow row, (MemberStatus? Status, List<Grant> Grants, List<FieldAnswer> Answers) asked)
    {
        var (status, grants, answers) = asked;
        var (changes, says, after) = (new List<Change>(), new List<string>(), there);
        if (row.Name is not null && read.Name != there.Name)
        {
            (after, says) = (after with { Name = read.Name }, [.. says, read.Name]);
        }

        if (there.PasswordHash is null && row.PasswordHash is not null)
        {
            var stands = there.Status == MemberStatus.Invited ? MemberStatus.Active : there.Status;
            (after, says) = (after with { PasswordHash = row.PasswordHash, Status = stands }, [.. says, "password"]);
        }

        if (there.UserName is null && read.UserName is not null)
        {
            (after, says) = (after with { UserName = read.UserName }, [.. says, read.UserName]);
        }

        if (row.Language is not null && read.Language != there.Language)
        {
            (after, says) = (after with { Language = read.Language }, [.. says, read.Language!]);
        }

        if (status is MemberStatus.Suspended or MemberStatus.Closed && there.Status != status)
        {
            after = after with { Status = status.Value, Cause = new StatusCause(now, source.ToString(), null) };
            says.Add(status.Value.ToString().ToLowerInvariant());
        }

        if (after != there)
        {
            changes.Add(new MemberSet(after = after with { Version = there.Version + 1 }, there.Version));
            changes.AddRange(after.Status is MemberStatus.Suspended or MemberStatus.Closed
                ? [new SessionsEnded(there.Id), new LinksClosed(null, there.Id, null, LinkEnd.Withdrawn)] : []);
        }

        foreach (var grant in grants.Where(g => !there.Grants.Any(o => o.Fact == g.Fact && (o.Source == g.Source || !o.IsOver(now)))))
        {
            changes.AddRange(changes.Count == 0 ? [new MemberTouched(there.Id, there.Version)] : []);
            (after, says) = (GrantCommands.Giving(after, grant, changes) with { Version = there.Version + 1 }, [.. says, grant.Fact]);
        }

        if (answers.Count > 0)
        {
            changes.AddRange(changes.Count == 0 ? [new MemberTouched(there.Id, there.Version)] : []);
            changes.Add(new AnswersSet(there.Id, answers));
            (after, says) = (after with { Version = there.Version + 1 }, [.. says, .. answers.Select(a => ImportRow.AnswerPrefix + a.Field)]);
        }

        changes.AddRange(changes.Count > 0 ? GrantCommands.Guard(there, after, now) : []);
        var said = string.Join(", ", says);
        return new Edit<ImportStep>(
            new Edit("member.import", there.Email, changes, null, said),
                new ImportStep(after, changes.Count == 0 ? ImportEffect.Same : ImportEffect.Changed, said));
    }
}
