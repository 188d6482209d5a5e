using WarySentinel.Core.Access;

namespace WarySentinel.Core.Redirects;

/// <summary>When a redirect is tried.</summary>
public enum RedirectOn
{
    /// <summary>After signing in.</summary>
    SignIn,
    /// <summary>After signing out.</summary>
    SignOut,
    /// <summary>After signing in for the first time; where no such rule says, those of signing in do.</summary>
    FirstSignIn,
    /// <summary>After registering.</summary>
    Registration,
    /// <summary>After an e-mail address was confirmed.</summary>
    Confirmation,
    /// <summary>After being approved, by the link of the letter.</summary>
    Approval,
    /// <summary>After a password was set.</summary>
    PasswordSet,
    /// <summary>Instead of being refused by a gate that leaves its answer to the service.</summary>
    Refusal,
    /// <summary>After a shared password was accepted.</summary>
    Unlock,
}

/// <summary>A rule: on that occasion, this audience lands there. The first that admits, and whose page they may open, counts.</summary>
/// <param name="Key">Its name.</param>
/// <param name="On">The occasion.</param>
/// <param name="Audience">Whom it is for.</param>
/// <param name="To">An address on this site; <see cref="Placeholders"/> may stand in it.</param>
/// <param name="Position">The order in which redirects are tried, lowest first.</param>
/// <param name="Insists">Whether it counts before the page that somebody wanted.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record Redirect(string Key, RedirectOn On, Audience Audience, string To, int Position, bool Insists = false, int Version = 1);

/// <summary>The redirects of a policy, in the order in which they are tried. Immutable.</summary>
public sealed record RedirectBook : IPolicyPart
{
    /// <summary>None.</summary>
    public RedirectBook()
    {
    }

    /// <summary>Some, put in their order.</summary>
    public RedirectBook(IEnumerable<Redirect> redirects) => All = [.. redirects.OrderBy(r => r.Position).ThenBy(r => r.Key, StringComparer.Ordinal)];

    /// <summary>In the order in which they are tried.</summary>
    public IReadOnlyList<Redirect> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => All.Select(r => new NamedAudience("redirect", r.Key, r.Audience));

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var bound = All.Select(r => map(r.Audience) is var audience && ReferenceEquals(audience, r.Audience) ? r : r with { Audience = audience }).ToList();
        return bound.Zip(All, ReferenceEquals).All(same => same) ? this : new RedirectBook(bound);
    }

    /// <summary>Those of a policy.</summary>
    public static RedirectBook Of(Policy policy) => policy.Parts.Of<RedirectBook>();
}

/// <summary>Stores a redirect.</summary>
public sealed record RedirectPut(Redirect Redirect) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new RedirectBook(draft.Part<RedirectBook>().All.Where(r => r.Key != Redirect.Key).Append(Redirect)));
}

/// <summary>Drops a redirect.</summary>
public sealed record RedirectDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new RedirectBook(draft.Part<RedirectBook>().All.Where(r => r.Key != Key)));
}
