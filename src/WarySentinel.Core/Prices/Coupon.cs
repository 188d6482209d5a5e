using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Orders;

namespace WarySentinel.Core.Prices;

/// <summary>A code that takes something off a cart, for an audience: it ends for whoever is no longer of it.</summary>
public sealed record Coupon
{
    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>What is typed in the cart; capital letters or not.</summary>
    public required string Code { get; init; }

    /// <summary>What people call it.</summary>
    public required string Title { get; init; }

    /// <summary>Who may use it.</summary>
    public required Audience Audience { get; init; }

    /// <summary>Percent off; null where it is an amount.</summary>
    public decimal? Off { get; init; }

    /// <summary>The amount off the whole cart; null where it is percents.</summary>
    public Money? Amount { get; init; }

    /// <summary>What it counts for, with all beneath; everything where none is named.</summary>
    public IReadOnlyList<ItemId> Items { get; init; } = [];

    /// <summary>Since when it counts; null for always.</summary>
    public DateTimeOffset? From { get; init; }

    /// <summary>Until when it counts; null for always.</summary>
    public DateTimeOffset? Until { get; init; }

    /// <summary>How often one person uses it; null for any number of times.</summary>
    public int? PerPerson { get; init; } = 1;

    /// <summary>How often it is used by all together; null for any number of times.</summary>
    public int? Most { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Whether it counts at a time.</summary>
    public bool IsInForce(DateTimeOffset now) => (From is null || From <= now) && (Until is null || now < Until);

    /// <summary>Whether it counts for an item.</summary>
    public bool Covers(CatalogueGraph graph, ItemId item)
    {
        if (Items.Count == 0 || Items.Contains(item))
        {
            return true;
        }

        var (seen, waiting) = (new HashSet<int>(), new Stack<int>());
        if (graph.PlaceOf(item) is >= 0 and var place)
        {
            waiting.Push(place);
        }

        while (waiting.TryPop(out var at))
        {
            if (Items.Contains(graph.Items[at].Id))
            {
                return true;
            }

            foreach (var parent in graph.ParentsOf(at).Where(seen.Add))
            {
                waiting.Push(parent);
            }
        }

        return false;
    }

    /// <inheritdoc/>
    public bool Equals(Coupon? other) => other is not null && Key == other.Key && Code == other.Code && Title == other.Title
        && Audience.Equals(other.Audience) && Off == other.Off && Amount == other.Amount && Items.SequenceEqual(other.Items) && From == other.From
        && Until == other.Until && PerPerson == other.PerPerson && Most == other.Most && Version == other.Version;

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Key, Version);
}

/// <summary>The coupons of a policy. Immutable.</summary>
public sealed record CouponBook : IPolicyPart
{
    /// <summary>None.</summary>
    public CouponBook()
    {
    }

    /// <summary>Some.</summary>
    public CouponBook(IEnumerable<Coupon> all) => All = [.. all.OrderBy(c => c.Key, StringComparer.Ordinal)];

    /// <summary>All of them, by key.</summary>
    public IReadOnlyList<Coupon> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => All.Select(c => new NamedAudience("coupon", c.Key, c.Audience));

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var mapped = All.Select(c => map(c.Audience) is var audience && ReferenceEquals(audience, c.Audience) ? c : c with { Audience = audience }).ToList();
        return mapped.Zip(All, ReferenceEquals).All(same => same) ? this : new CouponBook(mapped);
    }

    /// <inheritdoc/>
    public string? Holding(ItemId id) => All.FirstOrDefault(c => c.Items.Contains(id)) is { } coupon ? "coupon " + coupon.Key : null;

    /// <summary>The coupon of that name, or null.</summary>
    public Coupon? Find(string key) => All.FirstOrDefault(c => c.Key == key);

    /// <summary>The coupon that a typed code stands for, or null: capital letters or not, blanks around left out.</summary>
    public Coupon? Typed(string? code) => code?.Trim() is { Length: > 0 } typed
        ? All.FirstOrDefault(c => string.Equals(c.Code, typed, StringComparison.OrdinalIgnoreCase)) : null;

    /// <summary>Those of a policy.</summary>
    public static CouponBook Of(Policy policy) => policy.Parts.Of<CouponBook>();
}

/// <summary>Stores a coupon.</summary>
public sealed record CouponPut(Coupon Coupon) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new CouponBook(draft.Part<CouponBook>().All.Where(c => c.Key != Coupon.Key).Append(Coupon)));
}

/// <summary>Drops a coupon. That it was used stays known.</summary>
public sealed record CouponDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new CouponBook(draft.Part<CouponBook>().All.Where(c => c.Key != Key)));
}

/// <summary>A use of a coupon.</summary>
/// <param name="Id">Stands for it.</param>
/// <param name="Coupon">The coupon's key.</param>
/// <param name="Serial">Counts the uses of the coupon, from 1: two that were begun on the same count cannot both be stored.</param>
/// <param name="Person">Who used it: a member's id, or the address of whoever is none.</param>
/// <param name="Order">The shop's name for the order: one order uses a coupon once.</param>
/// <param name="At">When.</param>
public sealed record CouponUse(Guid Id, string Coupon, int Serial, string Person, string Order, DateTimeOffset At)
{
    /// <summary>What it took off, where the shop said.</summary>
    public Money? Discount { get; init; }
}

/// <summary>What is known of the uses of a coupon when one more is asked for.</summary>
/// <param name="All">How many there are.</param>
/// <param name="ByPerson">How many of that person.</param>
/// <param name="LastSerial">The highest of their numbers, or 0.</param>
/// <param name="OfOrder">That of the very order, if there is one.</param>
public sealed record CouponUses(int All, int ByPerson, int LastSerial, CouponUse? OfOrder);

/// <summary>Writes down that a coupon was used.</summary>
public sealed record CouponUsed(CouponUse Use) : Change.OfPeople;

/// <summary>Gives a use back: the order did not come about.</summary>
public sealed record CouponUseReturned(Guid Id) : Change.OfPeople;
