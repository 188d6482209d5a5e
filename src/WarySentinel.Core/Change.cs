using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Delivery;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Core;

/// <summary>
/// One thing to store or to drop. A command gives back a list of these; the store applies all or none. Changes go by two lanes
/// (docs/architecture.md): those of the policy, one writer at a time under its revision, and those of people, each by itself.
/// </summary>
public abstract record Change
{
    /// <summary>A change of what decides. It knows what becomes of a policy by it.</summary>
    public abstract record OfPolicy : Change
    {
        internal abstract void ApplyTo(PolicyDraft draft);
    }

    /// <summary>A change about a person; it leaves the policy as it is.</summary>
    public abstract record OfPeople : Change;

    /// <summary>Stores a gate or exemption.</summary>
    public sealed record GatePut(Gate Gate) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft) => draft.Gates[Gate.Key] = Gate;
    }

    /// <summary>Drops a gate, with its shared passwords.</summary>
    public sealed record GateDropped(string Key) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft)
        {
            draft.Gates.Remove(Key);
            draft.Asks.RemoveAll(a => a.Gate == Key);
        }
    }

    /// <summary>Stores items; those that exist are replaced.</summary>
    public sealed record ItemsPut(IReadOnlyList<Item> Items) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft)
        {
            foreach (var item in Items)
            {
                draft.Items[item.Id] = item;
            }
        }
    }

    /// <summary>Drops items.</summary>
    public sealed record ItemsDropped(IReadOnlyList<ItemId> Ids) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft)
        {
            foreach (var id in Ids)
            {
                draft.Items.Remove(id);
            }
        }
    }

    /// <summary>Stores a role, group or plan.</summary>
    public sealed record StandingPut(Standing Standing) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft) => draft.Standings[(Standing.Kind, Standing.Key)] = Standing;
    }

    /// <summary>Drops a role, group or plan.</summary>
    public sealed record StandingDropped(FactKind Kind, string Key) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft) => draft.Standings.Remove((Kind, Key));
    }

    /// <summary>Stores the settings of the site.</summary>
    public sealed record SettingsPut(SiteSettings Settings) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft) => draft.Settings = Settings;
    }

    /// <summary>Stores a shared password; who is asked for it is the policy's.</summary>
    public sealed record SharedPasswordPut(SharedPassword Password) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft)
        {
            draft.Asks.RemoveAll(a => a.Id == Password.Id);
            draft.Asks.Add(PasswordAsk.Of(Password));
        }
    }

    /// <summary>Stores a redirect.</summary>
    public sealed record RedirectPut(Redirect Redirect) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft) => draft.Redirects[Redirect.Key] = Redirect;
    }

    /// <summary>Drops a redirect.</summary>
    public sealed record RedirectDropped(string Key) : OfPolicy
    {
        internal override void ApplyTo(PolicyDraft draft) => draft.Redirects.Remove(Key);
    }

    /// <summary>Stores a new member with the grants it begins with. An e-mail address or user name that somebody has is refused.</summary>
    public sealed record MemberAdded(Member Member) : OfPeople;

    /// <summary>Stores what a member is, grants aside, unless somebody else changed them since version <paramref name="Was"/>.</summary>
    public sealed record MemberSet(Member Member, int Was) : OfPeople;

    /// <summary>Counts a member's version on, as what they hold changes, unless somebody else changed them since version <paramref name="Was"/>.</summary>
    public sealed record MemberTouched(Guid Member, int Was) : OfPeople;

    /// <summary>Gives a member a fact. One from the same source that is there already is refused.</summary>
    public sealed record GrantAdded(Guid Member, Grant Grant) : OfPeople;

    /// <summary>Gives a grant other dates.</summary>
    public sealed record GrantSet(Guid Member, Grant Grant) : OfPeople;

    /// <summary>Refuses the whole edit unless some other active member is an owner now, and has no end to it.</summary>
    public sealed record OwnerRemains(Guid Beside) : OfPeople;

    /// <summary>Refuses the whole edit where an active member is an owner already.</summary>
    public sealed record NoOwnerYet : OfPeople;

    /// <summary>Stores an access token of the API.</summary>
    public sealed record TokenPut(ApiToken Token) : OfPeople;

    /// <summary>Drops an access token of the API.</summary>
    public sealed record TokenDropped(Guid Id) : OfPeople;

    /// <summary>Puts a message on its way.</summary>
    public sealed record MessageQueued(OutgoingMessage Message) : OfPeople;

    /// <summary>Ends every session of a member.</summary>
    public sealed record SessionsEnded(Guid Member) : OfPeople;
}

/// <summary>What a command wants done: the changes, and what the audit trail says of them.</summary>
/// <param name="Action">A stable word such as <c>gate.add</c>.</param>
/// <param name="Subject">The name of what is changed.</param>
/// <param name="Changes">All of them, or none, are stored.</param>
/// <param name="Before">What it was, in readable form; never a secret.</param>
/// <param name="After">What it becomes.</param>
public sealed record Edit(string Action, string Subject, IReadOnlyList<Change> Changes, string? Before = null, string? After = null)
{
    /// <summary>Both sides in full (<see cref="Core.Detail"/>), where the change can be shown field by field or undone.</summary>
    public string? Detail { get; init; }

    /// <summary>Further entries of the audit trail, where one edit changes several things that people look up by name.</summary>
    public IReadOnlyList<Edit> Notes { get; init; } = [];

    /// <summary>The policy after it, where the command had to compile that to judge it: nobody need compile it again.</summary>
    public Policy? Compiled { get; init; }
}

/// <summary>An edit together with the value that the caller asked for.</summary>
public sealed record Edit<T>(Edit Store, T Value);
