using WarySentinel.Core.Redirects;

namespace WarySentinel.Core.Access;

/// <summary>Who is asked for a shared password, and from when until when.</summary>
public sealed record PasswordAsk(Guid Id, string Gate, Audience Asked, DateTimeOffset? From, DateTimeOffset? Until, DateTimeOffset? WithdrawnAt)
{
    /// <summary>What a shared password says of it.</summary>
    public static PasswordAsk Of(SharedPassword password) =>
        new(password.Id, password.Gate, password.Asked ?? Audience.Anyone, password.From, password.Until, password.WithdrawnAt);

    /// <summary>Whether that visitor is asked for it at that time.</summary>
    public bool Asks(Visitor visitor, DateTimeOffset now) =>
        WithdrawnAt is null && (From is null || From <= now) && (Until is null || now < Until) && Asked.Admits(visitor, Gate, now);
}

/// <summary>What a policy knows beside catalogue and gates. Immutable.</summary>
/// <param name="Redirects">In the order in which they are tried.</param>
/// <param name="Asks">Of every shared password: who is asked for it.</param>
public sealed record PolicyExtras(IReadOnlyList<Redirect> Redirects, IReadOnlyList<PasswordAsk> Asks)
{
    /// <summary>Nothing.</summary>
    public static readonly PolicyExtras None = new([], []);

    /// <summary>Redirects in their order.</summary>
    public static IReadOnlyList<Redirect> Ordered(IEnumerable<Redirect> redirects) =>
        [.. redirects.OrderBy(r => r.Position).ThenBy(r => r.Key, StringComparer.Ordinal)];

    /// <summary>Whether some shared password of the gate is for that visitor; also while the gate has none at all.</summary>
    public bool AsksForPassword(string gate, Visitor visitor, DateTimeOffset now)
    {
        var any = false;
        foreach (var ask in Asks)
        {
            if (ask.Gate == gate)
            {
                any = true;
                if (ask.Asks(visitor, now))
                {
                    return true;
                }
            }
        }

        return !any;
    }
}
