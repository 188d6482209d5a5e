using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Prices;

/// <summary>A cart as people write it.</summary>
public sealed record CartDraft
{
    private const int MostParts = 20;
    private const int LongestField = 100;

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>The addresses to which the shop's forms and scripts send.</summary>
    public IReadOnlyList<string>? At { get; init; }

    /// <summary>The fields that name what is bought.</summary>
    public IReadOnlyList<string>? Fields { get; init; }

    /// <summary>What a value stands for; <c>product:{value}</c> unless said.</summary>
    public string? Item { get; init; }

    /// <summary>What becomes of what the catalogue does not have: <c>refuse</c> or <c>pass</c>; <c>refuse</c> unless said.</summary>
    public string? Unknown { get; init; }

    /// <summary>The draft that says what a cart says.</summary>
    public static CartDraft Of(Cart cart) => new()
    {
        Key = cart.Key, At = [.. cart.At.Select(a => a.Text)], Fields = cart.Fields, Item = cart.Item, Unknown = cart.PassesUnknown ? "pass" : null,
    };

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    public Outcome<Cart> Read()
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var at = new List<Address>();
        faults.Unless(At is { Count: > 0 and <= MostParts }, "at", "cart-at", MostParts);
        foreach (var (text, n) in (At ?? []).Take(MostParts).Select((t, n) => (t, n)))
        {
            if (Address.TryParse(text, out var address, out var reason))
            {
                at.Add(address);
            }
            else
            {
                faults.Take($"at[{n}]", new Problem(ProblemKind.Invalid, "address-form", reason, []));
            }
        }

        var fields = (Fields ?? []).Select(f => f?.Trim() ?? "").ToList();
        faults.Unless(
            fields.Count is > 0 and <= MostParts && fields.TrueForAll(f => f.Length is > 0 and <= LongestField && PlainText.IsClean(f) && f.Any(c => c != '*')),
            "fields", "cart-fields", MostParts);
        var item = PlainText.OrNull(Item)?.Trim() ?? "product:" + Cart.Value;
        faults.Unless(IsItem(item), "item", "cart-item", item);
        faults.Unless(string.IsNullOrWhiteSpace(Unknown) || Unknown.Trim() is "refuse" or "pass", "unknown", "not-one-of", Unknown, "refuse, pass");
        return faults.Any ? faults.ToProblem()
            : new Cart { Key = Key!, At = at, Fields = fields, Item = item, PassesUnknown = Unknown?.Trim() == "pass" };
    }

    private static bool IsItem(string item) => item.Split(Cart.Value).Length == 2
        && (item.StartsWith('/') ? Address.TryParse(item.Replace(Cart.Value, "1", StringComparison.Ordinal), out _, out _)
            : ItemId.TryParse(item.Replace(Cart.Value, "1", StringComparison.Ordinal), out _));
}

/// <summary>Adds, changes and removes carts.</summary>
public static class CartCommands
{
    /// <summary>Most carts of a site.</summary>
    public const int Most = 50;

    /// <summary>Stores a cart; one of that key is replaced.</summary>
    public static Outcome<Edit<Cart>> Put(Policy policy, CartDraft draft, int? version)
    {
        var (book, read) = (CartBook.Of(policy), draft.Read());
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var old = book.Find(read.Value.Key);
        if (version is { } seen && seen != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", read.Value.Key);
        }

        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "carts-many", Most);
        }

        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1 };
        return old is not null && fresh == old with { Version = fresh.Version } ? new Edit<Cart>(new Edit("cart.set", old.Key, []), old)
            : new Edit<Cart>(
                new Edit(old is null ? "cart.add" : "cart.set", fresh.Key, [new CartPut(fresh)], old is null ? null : Describe(old), Describe(fresh))
                {
                    Detail = Detail.Of(old is null ? null : CartDraft.Of(old), CartDraft.Of(fresh)),
                },
                fresh);
    }

    /// <summary>Removes a cart: what goes there is not looked at any more.</summary>
    public static Outcome<Edit<Cart>> Remove(Policy policy, string key) => CartBook.Of(policy).Find(key) is not { } old ? Unknown(policy, key)
        : new Edit<Cart>(new Edit("cart.remove", key, [new CartDropped(key)], Describe(old)) { Detail = Detail.Of(CartDraft.Of(old), null) }, old);

    /// <summary>That there is no cart of that name, and which is near.</summary>
    public static Problem Unknown(Policy policy, string key) => Nearest.To(key, CartBook.Of(policy).All.Select(c => c.Key)) is { } near
        ? Problem.Of(ProblemKind.NotFound, "cart-unknown-near", key, near) : Problem.Of(ProblemKind.NotFound, "cart-unknown", key);

    private static string Describe(Cart cart) => $"{string.Join(", ", cart.At)}: {string.Join(", ", cart.Fields)}";
}
