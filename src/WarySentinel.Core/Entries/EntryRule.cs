using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Markup;

namespace WarySentinel.Core.Entries;

/// <summary>Says, for some addresses, what one entry is: an element of a page, or a value of data.</summary>
public sealed record EntryRule
{
    /// <summary>Its name.</summary>
    public required string Key { get; init; }

    /// <summary>The addresses that it is for.</summary>
    public required IReadOnlyList<Address> At { get; init; }

    /// <summary>The entry of pages; null for one of data.</summary>
    public TaughtEntry? Card { get; init; }

    /// <summary>The entry of data; null for one of pages.</summary>
    public JsonEntries? Data { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>Whether what is stored of it cannot be read: what it is for is closed until somebody says it again.</summary>
    public bool IsUnreadable => Card is null && Data is null;
}

/// <summary>The rules of entries of a policy. Immutable.</summary>
public sealed record EntryBook : IPolicyPart
{
    /// <summary>None.</summary>
    public EntryBook()
    {
    }

    /// <summary>Some, in the order of their names.</summary>
    public EntryBook(IEnumerable<EntryRule> rules) => all = [.. rules.OrderBy(r => r.Key, StringComparer.Ordinal)];

    private readonly EntryRule[] all = [];

    /// <summary>In the order of their names.</summary>
    public IReadOnlyList<EntryRule> All => all;

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <summary>Those of a policy.</summary>
    public static EntryBook Of(Policy policy) => policy.Parts.Of<EntryBook>();

    /// <summary>Those for a request. On the path of every request of the gateway: where there is none, nothing is allocated.</summary>
    public IReadOnlyList<EntryRule> For(RequestPath path, PathRules rules)
    {
        List<EntryRule>? found = null;
        foreach (var rule in all)
        {
            if (IsFor(rule, path, rules))
            {
                (found ??= []).Add(rule);
            }
        }

        return found is null ? [] : found;
    }

    private static bool IsFor(EntryRule rule, RequestPath path, PathRules rules)
    {
        for (var n = 0; n < rule.At.Count; n++)
        {
            if (rule.At[n].Matches(path, rules))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>What rules say, as the filter takes it.</summary>
    public static Taught ToTaught(IReadOnlyList<EntryRule> rules) => rules.Count == 0 ? Taught.Nothing
        : new([.. rules.Select(r => r.Card).OfType<TaughtEntry>()], [.. rules.Select(r => r.Data).OfType<JsonEntries>().Where(d => d.Behind is not null)]);
}

/// <summary>Stores a rule of entries.</summary>
public sealed record EntryPut(EntryRule Rule) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new EntryBook(draft.Part<EntryBook>().All.Where(r => r.Key != Rule.Key).Append(Rule)));
}

/// <summary>Drops a rule of entries.</summary>
public sealed record EntryDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new EntryBook(draft.Part<EntryBook>().All.Where(r => r.Key != Key)));
}
