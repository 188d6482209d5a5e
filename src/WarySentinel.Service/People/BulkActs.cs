using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Writes letters of the owner's own words to members; <c>{name}</c> in them stands for theirs.</summary>
public interface IMemberLetters
{
    /// <summary>What is wrong with subject and text, or null.</summary>
    Problem? FaultOf(string? subject, string? text);

    /// <summary>The letter to one of them, to be stored.</summary>
    Change Write(Member member, string subject, string text);
}

/// <summary>Something that can be done with many members at once. Rooms above have theirs.</summary>
public interface IBulkAct
{
    /// <summary>Its name.</summary>
    string Name { get; }

    /// <summary>What is wrong with what was asked, whoever it is for; null where nothing is.</summary>
    Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now);

    /// <summary>What is to be stored for one member, or why it cannot be done; no changes where it is so already.</summary>
    Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now);
}

/// <summary>Gives a fact.</summary>
public sealed class BulkGive : IBulkAct
{
    /// <inheritdoc/>
    public string Name => "give";

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) => BulkFacts.FaultOf(draft, caller, policy)
        ?? GrantCommands.Give(policy, BulkFacts.Anybody, DraftOf(draft), now).Problem;

    /// <inheritdoc/>
    public Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) =>
        Task.FromResult(GrantCommands.Give(policy, member, DraftOf(draft), now).Match<Outcome<Edit>>(edit => edit.ToStore, problem => problem));

    private static Core.People.GrantDraft DraftOf(BulkDraft draft) => new(draft.Fact, draft.From, draft.Until, draft.Source);
}

/// <summary>Ends a fact, whatever gave it.</summary>
public sealed class BulkEnd : IBulkAct
{
    /// <inheritdoc/>
    public string Name => "end";

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) => BulkFacts.FaultOf(draft, caller, policy);

    /// <inheritdoc/>
    public Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) =>
        Task.FromResult(GrantCommands.EndAll(member, draft.Fact!, now).Match<Outcome<Edit>>(edit => edit.ToStore, problem => problem));
}

/// <summary>Changes where accounts stand.</summary>
public sealed class BulkStatus(string name, MemberStatus status) : IBulkAct
{
    /// <inheritdoc/>
    public string Name => name;

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) =>
        AccountCommands.SetStatus(BulkFacts.Anybody, status, draft.Words, caller.Name, now).Problem is { Code: "status-words" } problem ? problem : null;

    /// <inheritdoc/>
    public Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) =>
        // Who is invited or waits is not let in by letting back in.
        Task.FromResult(status == MemberStatus.Active && member.Status is not (MemberStatus.Suspended or MemberStatus.Closed)
            ? new Edit("member.status", member.Email, [])
            : AccountCommands.SetStatus(member, status, draft.Words, caller.Name, now).Match<Outcome<Edit>>(edit => edit.ToStore, problem => problem));
}

/// <summary>Signs them out everywhere.</summary>
public sealed class BulkSignOut : IBulkAct
{
    /// <inheritdoc/>
    public string Name => "sign-out";

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) => null;

    /// <inheritdoc/>
    public Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) =>
        Task.FromResult<Outcome<Edit>>(new Edit("member.sign-out", member.Email, [new SessionsEnded(member.Id)]));
}

/// <summary>
/// Sends the invitation to whoever was invited and has not come, and a link for a password to whoever may sign in and has none, as after an import. Who was
/// sent one within a day is passed over, so that it can be begun again.
/// </summary>
public sealed class BulkInvite(MemberLinks links, Store store) : IBulkAct
{
    private static readonly TimeSpan Lately = TimeSpan.FromDays(1);

    /// <inheritdoc/>
    public string Name => "invite";

    /// <inheritdoc/>
    public Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now) => MemberLinks.FaultOf(draft.Words);

    /// <inheritdoc/>
    public async Task<Outcome<Edit>> ForAsync(Member member, BulkDraft draft, Caller caller, Policy policy, DateTimeOffset now)
    {
        if (AccountLinks.InPlaceOfPassword(member) is not { } purpose)
        {
            return Problem.Of(ProblemKind.Conflict, "link-status", member.Email);
        }

        var sent = await store.LinksOfAsync(member.Id, AccountLinks.MostInADay);
        if (member.PasswordHash is not null || sent.Any(l => l.Purpose == purpose && l.CreatedAt > now - Lately))
        {
            return new Edit("link." + AccountLinks.NameOf(purpose), member.Email, []);
        }

        var from = caller.Member is { } id ? (await store.MemberAsync(id))?.Name : null;
        var terms = new LinkTerms(caller.Name, draft.Words, From: from, Again: sent.Any(l => l.Purpose == purpose));
        var made = await links.MakeAsync(member, purpose, terms, now, CancellationToken.None);
        // Two who begin it at once write one letter.
        return made.Match<Outcome<Edit>>(
            link => link.ToStore with { Changes = [new NoLinkSince(purpose, member.Id, now - Lately), .. link.ToStore.Changes] }, problem => problem);
    }
}

/// <summary>What acts about facts have in common.</summary>
internal static class BulkFacts
{
    /// <summary>Somebody who holds nothing, to try what is asked on.</summary>
    public static readonly Member Anybody = new(Guid.Empty, "", "", null, null, MemberStatus.Suspended, [], DateTimeOffset.MinValue);

    /// <summary>A fact must be named, and staff rights are an owner's to give.</summary>
    public static Problem? FaultOf(BulkDraft draft, Caller caller, Policy policy) =>
        !MemberNames.TryFact(draft.Fact, out var fact) ? Problem.In("fact", "fact-form", draft.Fact)
        : fact.Kind == Core.Facts.FactKind.Role && StaffRights.IsStaffRole(policy, fact.Key) && !caller.IsOwner
            ? Problem.Of(ProblemKind.Forbidden, "staff-role") : null;
}
