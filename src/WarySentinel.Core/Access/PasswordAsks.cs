using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>Who is asked for a shared password, and from when until when.</summary>
public sealed record PasswordAsk(Guid Id, string Gate, Audience Asked, DateTimeOffset? From, DateTimeOffset? Until, DateTimeOffset? WithdrawnAt)
{
    /// <summary>Whether that visitor is asked for it at that time.</summary>
    public bool Asks(Visitor visitor, DateTimeOffset now) =>
        WithdrawnAt is null && (From is null || From <= now) && (Until is null || now < Until) && Asked.Admits(visitor, Gate, now);
}

/// <summary>Of every shared password: who is asked for it. Immutable.</summary>
public sealed record PasswordAsks(IReadOnlyList<PasswordAsk> All) : IPolicyPart
{
    /// <summary>None.</summary>
    public PasswordAsks()
        : this([])
    {
    }

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences =>
        All.Where(a => a is { WithdrawnAt: null, Until: null }).Select(a => new NamedAudience("password", a.Gate, a.Asked));

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var bound = All.Select(a => map(a.Asked) is var asked && ReferenceEquals(asked, a.Asked) ? a : a with { Asked = asked }).ToList();
        return bound.Zip(All, ReferenceEquals).All(same => same) ? this : new PasswordAsks(bound);
    }

    /// <summary>With what another password says in place of what it said.</summary>
    public PasswordAsks With(PasswordAsk ask) => new([.. All.Where(a => a.Id != ask.Id), ask]);

    /// <summary>Without those of a gate.</summary>
    public PasswordAsks Without(string gate) => new([.. All.Where(a => a.Gate != gate)]);

    /// <summary>Whether some shared password of the gate is for that visitor; also while the gate has none at all.</summary>
    public bool Asks(string gate, Visitor visitor, DateTimeOffset now)
    {
        var any = false;
        foreach (var ask in All)
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
