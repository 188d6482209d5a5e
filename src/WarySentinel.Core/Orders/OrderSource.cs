using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Orders;

/// <summary>A secret of a source.</summary>
/// <param name="Sealed">The secret, sealed.</param>
/// <param name="Until">Until when it counts, where another took its place; null for the present one.</param>
public sealed record SourceSecret(Secret Sealed, DateTimeOffset? Until = null);

/// <summary>Whoever tells of orders by web hook: a payment processor, a shop.</summary>
public sealed record OrderSource
{
    /// <summary>Its name, also in the address of its web hook.</summary>
    public required string Key { get; init; }

    /// <summary>What people call it.</summary>
    public required string Title { get; init; }

    /// <summary>How its calls are signed.</summary>
    public HookScheme Scheme { get; init; } = new();

    /// <summary>Where the fields of an order stand in its calls; null where they are CloudEvents as we read them.</summary>
    public OrderMapping? Mapping { get; init; }

    /// <summary>
    /// The address of its page for paying, where buyers are sent: <c>{code}</c>, <c>{token}</c> and <c>{return}</c> stand for the stock code, what their
    /// browser brings back, and where it comes back to. Null where it has none.
    /// </summary>
    public string? Checkout { get; init; }

    /// <summary>Whether the browser that paid is signed in by that.</summary>
    public bool OpensDoor { get; init; }

    /// <summary>The secrets, sealed; the present one last.</summary>
    public IReadOnlyList<SourceSecret> Secrets { get; init; } = [];

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;
}

/// <summary>The sources of orders of a policy. Immutable.</summary>
public sealed record OrderSourceBook : IPolicyPart
{
    /// <summary>None.</summary>
    public OrderSourceBook()
    {
    }

    /// <summary>Some, in the order of their names.</summary>
    public OrderSourceBook(IEnumerable<OrderSource> sources) => All = [.. sources.OrderBy(s => s.Key, StringComparer.Ordinal)];

    /// <summary>In the order of their names.</summary>
    public IReadOnlyList<OrderSource> All { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => [];

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map) => this;

    /// <summary>The source of that key, or null.</summary>
    public OrderSource? Find(string key) => All.FirstOrDefault(s => s.Key == key);

    /// <summary>Those of a policy.</summary>
    public static OrderSourceBook Of(Policy policy) => policy.Parts.Of<OrderSourceBook>();
}

/// <summary>Stores a source.</summary>
public sealed record OrderSourcePut(OrderSource Source) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) =>
        draft.Set(new OrderSourceBook(draft.Part<OrderSourceBook>().All.Where(s => s.Key != Source.Key).Append(Source)));
}

/// <summary>Drops a source.</summary>
public sealed record OrderSourceDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft) => draft.Set(new OrderSourceBook(draft.Part<OrderSourceBook>().All.Where(s => s.Key != Key)));
}

/// <summary>A source as people write it; its secret aside.</summary>
public sealed record OrderSourceDraft
{
    /// <summary>The names of the sorts of proof.</summary>
    public static readonly IReadOnlyList<string> Proofs = ["standard", "body", "timestamp-body", "token"];

    /// <summary>Names that orders have that no source tells of.</summary>
    public static readonly IReadOnlyList<string> Ours = ["hand", "api", "import"];

    private const int LongestTitle = 120;
    private const int LongestCheckout = 1000;

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>What people call it; its name unless said.</summary>
    public string? Title { get; init; }

    /// <summary>How its calls are signed; <c>standard</c> unless said.</summary>
    public string? Proof { get; init; }

    /// <summary>The header that the proof stands in.</summary>
    public string? Header { get; init; }

    /// <summary>The header that the timestamp stands in.</summary>
    public string? TimestampHeader { get; init; }

    /// <summary>What stands before the proof in its header.</summary>
    public string? Prefix { get; init; }

    /// <summary>Whether the HMAC is in Base64.</summary>
    public bool Base64 { get; init; }

    /// <summary>Whether it is HMAC-SHA512.</summary>
    public bool Sha512 { get; init; }

    /// <summary>Where the fields stand; null or empty for CloudEvents.</summary>
    public IReadOnlyDictionary<string, string>? Fields { get; init; }

    /// <summary>What the values of the kind mean.</summary>
    public IReadOnlyDictionary<string, string>? Kinds { get; init; }

    /// <summary>Whether amounts are in the smallest unit.</summary>
    public bool InUnits { get; init; }

    /// <summary>The currency where no field says it.</summary>
    public string? Currency { get; init; }

    /// <summary>The address of its page for paying.</summary>
    public string? Checkout { get; init; }

    /// <summary>Whether the browser that paid is signed in.</summary>
    public bool OpensDoor { get; init; }

    /// <summary>The draft that says what a source says.</summary>
    public static OrderSourceDraft Of(OrderSource source) => new()
    {
        Key = source.Key, Title = source.Title, Proof = Proofs[(int)source.Scheme.Proof], Header = source.Scheme.Header,
        TimestampHeader = source.Scheme.TimestampHeader, Prefix = source.Scheme.Prefix, Base64 = source.Scheme.IsBase64, Sha512 = source.Scheme.IsSha512,
        Fields = source.Mapping?.At, Kinds = source.Mapping?.Kinds, InUnits = source.Mapping?.IsInUnits ?? false, Currency = source.Mapping?.Currency,
        Checkout = source.Checkout, OpensDoor = source.OpensDoor,
    };

    /// <summary>Reads the draft, or gives every fault found in it. It has no secrets yet.</summary>
    public Outcome<OrderSource> Read()
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        faults.Unless(Key is null || !Ours.Contains(Key), "key", "source-ours", Key);
        var title = PlainText.OrNull(Title) ?? Key ?? "";
        faults.Unless(title.Length <= LongestTitle && PlainText.IsClean(title), "title", "name-length", LongestTitle);
        var proof = string.IsNullOrWhiteSpace(Proof) ? 0 : Proofs.ToList().IndexOf(Proof.Trim());
        faults.Unless(proof >= 0, "proof", "not-one-of", Proof, string.Join(", ", Proofs));
        var scheme = new HookScheme((HookProof)Math.Max(proof, 0))
        {
            Header = PlainText.OrNull(Header), TimestampHeader = PlainText.OrNull(TimestampHeader), Prefix = PlainText.OrNull(Prefix), IsBase64 = Base64,
            IsSha512 = Sha512,
        };
        faults.Unless(scheme.Proof == HookProof.Standard || IsHeader(scheme.Header), "header", "source-header", Header);
        faults.Unless(scheme.Proof != HookProof.TimestampBody || IsHeader(scheme.TimestampHeader), "timestampHeader", "source-header", TimestampHeader);
        faults.Unless(Prefix is null || (Prefix.Length <= 40 && PlainText.IsClean(Prefix)), "prefix", "source-prefix");
        var checkout = PlainText.OrNull(Checkout);
        faults.Unless(checkout is null || (checkout.Length <= LongestCheckout && Uri.TryCreate(
            checkout.Replace("{", "", StringComparison.Ordinal).Replace("}", "", StringComparison.Ordinal), UriKind.Absolute, out var uri)
            && uri.Scheme is "https" or "http" && PlainText.IsClean(checkout)), "checkout", "source-checkout");
        var mapping = ReadMapping(faults);
        return faults.Any ? faults.ToProblem()
            : new OrderSource { Key = Key!, Title = title, Scheme = scheme, Mapping = mapping, Checkout = checkout, OpensDoor = OpensDoor };
    }

    private OrderMapping? ReadMapping(Faults faults)
    {
        var at = (Fields ?? new Dictionary<string, string>()).Where(f => !string.IsNullOrWhiteSpace(f.Value)).ToDictionary(f => f.Key, f => f.Value.Trim());
        if (at.Count == 0)
        {
            return null;
        }

        foreach (var (field, pointer) in at)
        {
            faults.Unless(OrderMapping.Fields.Contains(field), "fields", "mapping-field", field, string.Join(", ", OrderMapping.Fields));
            faults.Unless(OrderMapping.IsPointer(pointer), "fields." + field, "mapping-pointer", pointer);
        }

        foreach (var needed in new[] { "order", "code", "email" })
        {
            faults.Unless(at.ContainsKey(needed), "fields." + needed, "mapping-needed", needed);
        }

        var kinds = (Kinds ?? new Dictionary<string, string>()).ToDictionary(k => k.Key.Trim(), k => k.Value.Trim(), StringComparer.Ordinal);
        foreach (var (said, meant) in kinds)
        {
            faults.Unless(
                meant == OrderMapping.Ignored || EventReading.KindOf(meant) is not null, "kinds", "mapping-means", said, meant,
                string.Join(", ", OrderEvent.Kinds.Keys.SkipLast(1).Append(OrderMapping.Ignored)));
        }

        faults.Unless(!at.ContainsKey("kind") || kinds.Count is > 0 and <= 100, "kinds", "mapping-kinds");
        var currency = PlainText.OrNull(Currency)?.ToUpperInvariant();
        faults.Unless(currency is null || Money.IsCurrency(currency), "currency", "order-currency", Currency);
        return new OrderMapping { At = at, Kinds = kinds, IsInUnits = InUnits, Currency = currency };
    }

    private static bool IsHeader(string? name) => name is { Length: > 0 and <= 100 } && name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_');
}

/// <summary>Adds, changes and removes sources of orders.</summary>
public static class OrderSourceCommands
{
    /// <summary>Most sources of a site.</summary>
    public const int Most = 50;

    /// <summary>How long a secret still counts after another took its place.</summary>
    public static readonly TimeSpan Overlap = TimeSpan.FromDays(1);

    /// <summary>Stores a source; one of that key is replaced and keeps its secrets.</summary>
    public static Outcome<Edit<OrderSource>> Put(Policy policy, OrderSourceDraft draft)
    {
        var read = draft.Read();
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var book = OrderSourceBook.Of(policy);
        var old = book.Find(read.Value.Key);
        if (old is null && book.All.Count >= Most)
        {
            return Problem.Of(ProblemKind.Conflict, "source-many", Most);
        }

        // A secret of another sort of proof is none of this one.
        var keeps = old is not null && (old.Scheme.Proof == HookProof.Standard) == (read.Value.Scheme.Proof == HookProof.Standard);
        var fresh = read.Value with { Version = (old?.Version ?? 0) + 1, Secrets = keeps ? old!.Secrets : [] };
        return new Edit<OrderSource>(
            new Edit(old is null ? "order-source.add" : "order-source.set", fresh.Key, [new OrderSourcePut(fresh)], old?.Title, fresh.Title)
            {
                Detail = Detail.Of(old is null ? null : OrderSourceDraft.Of(old), OrderSourceDraft.Of(fresh)),
            },
            fresh);
    }

    /// <summary>Gives a source another secret; the one before counts for a day yet, or no longer.</summary>
    public static Outcome<Edit<OrderSource>> Rekey(Policy policy, string key, Secret sealedSecret, bool atOnce, DateTimeOffset now)
    {
        if (OrderSourceBook.Of(policy).Find(key) is not { } old)
        {
            return Problem.Of(ProblemKind.NotFound, "source-unknown", key);
        }

        var kept = atOnce ? [] : old.Secrets.Where(s => s.Until is null).Select(s => s with { Until = now + Overlap });
        var fresh = old with { Version = old.Version + 1, Secrets = [.. kept, new SourceSecret(sealedSecret)] };
        return new Edit<OrderSource>(new Edit("order-source.secret", key, [new OrderSourcePut(fresh)]), fresh);
    }

    /// <summary>Removes a source. Its orders stay.</summary>
    public static Outcome<Edit<OrderSource>> Remove(Policy policy, string key) => OrderSourceBook.Of(policy).Find(key) is not { } old
        ? Problem.Of(ProblemKind.NotFound, "source-unknown", key)
        : new Edit<OrderSource>(new Edit("order-source.remove", key, [new OrderSourceDropped(key)], old.Title), old);
}
