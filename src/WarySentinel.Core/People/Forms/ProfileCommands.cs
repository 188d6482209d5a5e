namespace WarySentinel.Core.People.Forms;

/// <summary>What members change of themselves.</summary>
public static class ProfileCommands
{
    /// <summary>Stores a member's own name and answers. Only fields that the owner leaves to them are in the form; whatever else was sent is not
    /// taken.</summary>
    /// <param name="member">Who.</param>
    /// <param name="form">The form of the profile (<see cref="FormBook.Profile"/>).</param>
    /// <param name="filled">What they answered.</param>
    /// <param name="name">The name to be greeted by.</param>
    public static Outcome<Edit<Member>> Set(Member? member, JoinForm form, FilledForm filled, string? name)
    {
        if (member is not { Status: MemberStatus.Active })
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        var (faults, called) = (new Faults(), name?.Trim() ?? "");
        faults.Unless(called.Length is > 0 and <= MemberCommands.LongestName && PlainText.IsClean(called), "name", "name-length", MemberCommands.LongestName);
        filled.Tell(faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var after = member with { Name = called, Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit(
                "member.profile", member.Email, [new MemberSet(after, member.Version), new AnswersSet(member.Id, filled.InPlaceOf(form))],
                member.Name == called ? null : member.Name, member.Name == called ? null : called),
            after);
    }
}
