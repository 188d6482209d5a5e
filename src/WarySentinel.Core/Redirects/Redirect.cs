using WarySentinel.Core.Access;

namespace WarySentinel.Core.Redirects;

/// <summary>When a redirect is tried.</summary>
public enum RedirectOn
{
    /// <summary>After signing in, where no page waits to be gone back to.</summary>
    SignIn,
    /// <summary>After signing out.</summary>
    SignOut,
}

/// <summary>A rule: on that occasion, this audience lands there. The first that admits counts.</summary>
/// <param name="Key">Its name.</param>
/// <param name="On">The occasion.</param>
/// <param name="Audience">Whom it is for.</param>
/// <param name="To">An address on this site.</param>
/// <param name="Position">The order in which redirects are tried, lowest first.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record Redirect(string Key, RedirectOn On, Audience Audience, string To, int Position, int Version = 1);

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
