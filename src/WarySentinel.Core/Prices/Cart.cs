using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Prices;

/// <summary>Where the shop takes things into a cart, and by which fields, so that the gateway refuses what may not be bought (docs/how-to/prices.md).</summary>
public sealed record Cart
{
    /// <summary>What stands for the value of a field in <see cref="Item"/>.</summary>
    public const string Value = "{value}";

    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>The addresses to which the shop's forms and scripts send.</summary>
    public required IReadOnlyList<Address> At { get; init; }

    /// <summary>The fields that name what is bought; <c>*</c> in one stands for anything, as in <c>lines[*][sku]</c>. None where what is stored cannot be
    /// read: then nothing is let through.</summary>
    public required IReadOnlyList<string> Fields { get; init; }

    /// <summary>What a value stands for: a name such as <c>product:{value}</c>, or an address such as <c>/shop/item?id={value}</c>.</summary>
    public string Item { get; init; } = "product:" + Value;

    /// <summary>Whether what the catalogue does not have is let through.</summary>
    public bool PassesUnknown { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>
    /// Whether a field of a form names what is bought. Frameworks read a name without regard to case, blanks, and brackets behind it; so does this.
    /// </summary>
    public bool Names(string field)
    {
        var name = Plain(field);
        foreach (var wanted in Fields)
        {
            var pattern = Plain(wanted);
            if (Starred.Matches(pattern, name) || (!pattern.Contains('[', StringComparison.Ordinal)
                && name.IndexOf('[', StringComparison.Ordinal) is > 0 and var at && Starred.Matches(pattern, name[..at])))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Whether a property of JSON names what is bought: one of that name, however deep it stands.</summary>
    public bool NamesProperty(string name) => Fields.Any(f => Starred.Matches(LastOf(Plain(f)), Plain(name)));

    /// <summary>Decides on one value of such a field; null where it may be bought.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="visitor">Who buys.</param>
    /// <param name="value">The value as it was sent.</param>
    /// <param name="now">The time.</param>
    public CartRefusal? WhyNot(Policy policy, Visitor visitor, string value, DateTimeOffset now)
    {
        value = value.Trim();
        if (Item.StartsWith('/'))
        {
            var target = Item.Replace(Value, Uri.EscapeDataString(value), StringComparison.Ordinal);
            return !RequestPath.TryNormalise(target, policy.Settings.Paths, out var path, out _) || policy.ItemsAt(path) is not { Count: > 0 } items
                ? Unknown(policy, visitor, value, now) : Refused(policy.Decide(visitor, path, Acts.Buy, now), items[0].Id);
        }

        return ItemId.TryParse(Item.Replace(Value, value.ToLowerInvariant(), StringComparison.Ordinal), out var id) && policy.Graph.PlaceOf(id) >= 0
            ? Refused(policy.Decide(visitor, id, Acts.Buy, now).Value, id) : Unknown(policy, visitor, value, now);
    }

    private static CartRefusal? Refused(Decision decision, ItemId item) => decision.Allowed ? null : new CartRefusal(decision, item, null);

    private CartRefusal? Unknown(Policy policy, Visitor visitor, string value, DateTimeOffset now) =>
        !PassesUnknown ? new CartRefusal(null, null, value) : Refused(policy.Decide(visitor, ItemId.Site, Acts.Buy, now).Value, ItemId.Site);

    private static string LastOf(string field)
    {
        var parts = field.Split(['[', ']', '.'], StringSplitOptions.RemoveEmptyEntries);
        return parts.LastOrDefault(p => p != "*") ?? field;
    }

    /// <summary>A name as frameworks compare it: dots and blanks are the same as underscores to some.</summary>
    private static string Plain(string name) => name.Trim().Trim('\0').ToLowerInvariant().Replace('.', '_').Replace(' ', '_');

    /// <inheritdoc/>
    public bool Equals(Cart? other) => other is not null && Key == other.Key && At.SequenceEqual(other.At) && Fields.SequenceEqual(other.Fields)
        && Item == other.Item && PassesUnknown == other.PassesUnknown && Version == other.Version;

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Key, Version);
}

/// <summary>Why something does not go into the cart.</summary>
/// <param name="Decision">The decision that refused it; null where the catalogue does not have it.</param>
/// <param name="Item">The item.</param>
/// <param name="Value">What was sent, where the catalogue does not have it.</param>
public sealed record CartRefusal(Decision? Decision, ItemId? Item, string? Value);

/// <summary>The carts of a policy. Immutable.</summary>
public sealed record CartBook : IPolicyPart
{
    /// <summary>None.</summary>
    public CartBook()
    {
    }

    /// <summary>Some.</summary>
    public CartBook(IEnumerable<Cart> all) => carts = [.. all.OrderBy(c => c.Key, StringComparer.Ordinal)];

    private readonly Cart[] carts = [];

    /// <summary>All of them, by key.</summary>
    public IReadOnlyList<Cart> All => carts;

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <summary>The cart of that name, or null.</summary>
    public Cart? Find(string key) => All.FirstOrDefault(c => c.Key == key);

    /// <summary>The cart that a request goes to, if any. On the path of every request of the gateway: where there is none, nothing is allocated.</summary>
    public Cart? For(RequestPath path, PathRules rules)
    {
        foreach (var cart in carts)
        {
            for (var n = 0; n < cart.At.Count; n++)
            {
                if (cart.At[n].Matches(path, rules))
                {
                    return cart;
                }
            }
        }

        return null;
    }

    /// <summary>Those of a policy.</summary>
    public static CartBook Of(Policy policy) => policy.Parts.Of<CartBook>();
}

/// <summary>Stores a cart.</summary>
public sealed record CartPut(Cart Cart) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new CartBook(draft.Part<CartBook>().All.Where(c => c.Key != Cart.Key).Append(Cart)));
}

/// <summary>Drops a cart.</summary>
public sealed record CartDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new CartBook(draft.Part<CartBook>().All.Where(c => c.Key != Key)));
}
