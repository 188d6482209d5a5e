namespace WarySentinel.Core.People.Consents;

/// <summary>What somebody said to terms, as evidence.</summary>
/// <param name="Member">Who.</param>
/// <param name="Terms">The key of the terms.</param>
/// <param name="Number">The version that they saw.</param>
/// <param name="Agreed">Whether they agreed.</param>
/// <param name="At">When.</param>
/// <param name="Language">The language in which they read it (RFC 5646 tag).</param>
/// <param name="Where">Where it was asked: a form's key, or <c>sign-in</c>.</param>
public sealed record Consent(Guid Member, string Terms, int Number, bool Agreed, DateTimeOffset At, string Language, string Where);

/// <summary>Keeps what somebody said to terms.</summary>
public sealed record ConsentGiven(Consent Consent) : Change.OfPeople;

/// <summary>Takes what members say to terms.</summary>
public static class ConsentCommands
{
    /// <summary>Where terms are asked that no form asked for.</summary>
    public const string AtSignIn = "sign-in";

    /// <summary>Takes the answer to what somebody was asked. Another version than the one that counts by now is not what they said yes to.</summary>
    /// <param name="member">Who.</param>
    /// <param name="due">What they have to be asked now.</param>
    /// <param name="said">For each terms by key, the version that they saw and whether they agreed.</param>
    /// <param name="read">The language of the page, and the site's own.</param>
    /// <param name="now">Now.</param>
    public static Outcome<Edit<Member>> Answer(
        Member? member, IReadOnlyList<TermsDue> due, IReadOnlyDictionary<string, (int Number, bool Agreed)> said, (string Language, string Own) read,
            DateTimeOffset now)
    {
        if (member is not { Status: MemberStatus.Active })
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        var given = new List<Consent>();
        foreach (var one in due)
        {
            if (!said.TryGetValue(one.Terms.Key, out var answer) || answer.Number != one.Text.Number)
            {
                return Problem.In(one.Terms.Key, "terms-changed", one.Text.Title);
            }

            given.Add(new Consent(member.Id, one.Terms.Key, answer.Number, answer.Agreed, now, one.Text.WordsIn(read.Language).Language ?? read.Own, AtSignIn));
        }

        var after = With(member, given) with { Version = member.Version + (given.Count > 0 ? 1 : 0) };
        var action = given.TrueForAll(c => c.Agreed) ? "member.agree" : "member.refuse-terms";
        return new Edit<Member>(
            new Edit(
                action, member.Email, given.Count == 0 ? [] : [new MemberSet(after, member.Version), .. given.Select(c => new ConsentGiven(c))], null,
                string.Join(", ", given.Select(c => $"{c.Terms} {c.Number}"))),
            after);
    }

    /// <summary>What somebody said to the terms of the form by which they join; what is needed and was not agreed to is a fault.</summary>
    internal static IReadOnlyList<Consent> ByForm(IReadOnlyList<TermsDue> asked, JoinAttempt attempt, string own, Guid member, DateTimeOffset now,
        Faults faults)
    {
        var given = new List<Consent>();
        foreach (var one in asked)
        {
            var isSeen = attempt.Said.TryGetValue(one.Terms.Key, out var answer) && answer.Number == one.Text.Number;
            faults.Unless(isSeen, "terms." + one.Terms.Key, "terms-changed", one.Text.Title);
            faults.Unless(!isSeen || answer.Agreed || one.Terms.IsOptional, "terms." + one.Terms.Key, "terms-needed", one.Text.Title);
            given.Add(new Consent(
                member, one.Terms.Key, one.Text.Number, answer.Agreed, now, one.Text.WordsIn(attempt.Language).Language ?? own, attempt.Form.Key));
        }

        return given;
    }

    /// <summary>A member who has said these things, each in place of what they said to the same terms before.</summary>
    internal static Member With(Member member, IReadOnlyList<Consent> given) => member with
    {
        Said = [.. member.Said.Where(s => given.All(c => c.Terms != s.Terms)), .. given.Select(c => new Consented(c.Terms, c.Number, c.Agreed))],
    };
}
