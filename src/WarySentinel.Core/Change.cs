using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Delivery;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Core;

/// <summary>One thing to store or to drop. A command gives back a list of these; the store applies all or none.</summary>
public abstract record Change
{
    /// <summary>Stores a gate or exemption.</summary>
    public sealed record GatePut(Gate Gate) : Change;

    /// <summary>Drops a gate, with its shared passwords.</summary>
    public sealed record GateDropped(string Key) : Change;

    /// <summary>Stores items; those that exist are replaced.</summary>
    public sealed record ItemsPut(IReadOnlyList<Item> Items) : Change;

    /// <summary>Drops items.</summary>
    public sealed record ItemsDropped(IReadOnlyList<ItemId> Ids) : Change;

    /// <summary>Stores a role, group or plan.</summary>
    public sealed record StandingPut(Standing Standing) : Change;

    /// <summary>Drops a role, group or plan.</summary>
    public sealed record StandingDropped(FactKind Kind, string Key) : Change;

    /// <summary>Stores the settings of the site.</summary>
    public sealed record SettingsPut(SiteSettings Settings) : Change;

    /// <summary>Stores a member with all grants.</summary>
    public sealed record MemberPut(Member Member) : Change;

    /// <summary>Stores a shared password.</summary>
    public sealed record SharedPasswordPut(SharedPassword Password) : Change;

    /// <summary>Stores an access token of the API.</summary>
    public sealed record TokenPut(ApiToken Token) : Change;

    /// <summary>Drops an access token of the API.</summary>
    public sealed record TokenDropped(Guid Id) : Change;

    /// <summary>Stores a redirect.</summary>
    public sealed record RedirectPut(Redirect Redirect) : Change;

    /// <summary>Drops a redirect.</summary>
    public sealed record RedirectDropped(string Key) : Change;

    /// <summary>Puts a message on its way.</summary>
    public sealed record MessageQueued(OutgoingMessage Message) : Change;

    /// <summary>Ends every session of a member.</summary>
    public sealed record SessionsEnded(Guid Member) : Change;
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
}

/// <summary>An edit together with the value that the caller asked for.</summary>
public sealed record Edit<T>(Edit Store, T Value);
