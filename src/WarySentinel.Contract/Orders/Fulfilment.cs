namespace WarySentinel.Contract.Orders;

/// <summary>What orders for a stock code give.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Code">The stock code; <c>*</c> in it stands for anything, and <c>CODE/VARIANT</c> is one variant.</param>
/// <param name="Gives">What it gives, such as <c>plan:patron</c> or <c>bought:download:atlas</c>.</param>
/// <param name="Length">For how long (ISO 8601); null for as long as each plan lasts.</param>
/// <param name="Trial">What the first payment pays for in place of that, to try it (ISO 8601); null for the same.</param>
/// <param name="Way">
/// How the buyer gets in: <c>account</c>, who has none sets a password by a link; <c>password</c>, who has none is told one; <c>link</c>, the letter has the
/// address of a folder, and it takes no account; <c>shared-password</c>, the letter tells the shared password of <paramref name="Gate"/>.
/// </param>
/// <param name="Quantity">What the quantity means: <c>nothing</c>, so many <c>lengths</c>, or so many <c>seats</c> of an organisation.</param>
/// <param name="Most">How often one person is given it; null for any number of times.</param>
/// <param name="LandsOn">The page that the letter leads to; null for the account.</param>
/// <param name="Gate">The gate whose shared password is told; null for none.</param>
/// <param name="Sentence">All of it in a sentence.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record FulfilmentView(
    string Key, string Code, IReadOnlyList<string> Gives, string? Length, string? Trial, string Way, string Quantity, int? Most, string? LandsOn,
    string? Gate, string Sentence, int Version);

/// <summary>A fulfilment rule to be stored.</summary>
public sealed record FulfilmentDraft
{
    /// <summary>The stock code, or a pattern of it.</summary>
    public string? Code { get; init; }

    /// <summary>What it gives.</summary>
    public IReadOnlyList<string>? Gives { get; init; }

    /// <summary>For how long (ISO 8601).</summary>
    public string? Length { get; init; }

    /// <summary>What the first payment pays for in place of that, to try it (ISO 8601).</summary>
    public string? Trial { get; init; }

    /// <summary><c>account</c> unless said.</summary>
    public string? Way { get; init; }

    /// <summary><c>nothing</c> unless said.</summary>
    public string? Quantity { get; init; }

    /// <summary>How often one person is given it.</summary>
    public int? Most { get; init; }

    /// <summary>The gate whose shared password is told.</summary>
    public string? Gate { get; init; }

    /// <summary>The page that the letter leads to.</summary>
    public string? LandsOn { get; init; }
}

/// <summary>Asks what an order would do.</summary>
/// <param name="Lines">What is bought.</param>
/// <param name="Email">Who buys; somebody without an account unless said.</param>
/// <param name="Key">The key of a rule that is tried; null for the rules as they are.</param>
/// <param name="Draft">That rule, as it would be.</param>
public sealed record FulfilmentTrial(IReadOnlyList<OrderLineDraft>? Lines, string? Email = null, string? Key = null, FulfilmentDraft? Draft = null);

/// <summary>What an order would do.</summary>
/// <param name="Sentence">The rule that is tried, in a sentence; null where none is.</param>
/// <param name="Would">What would happen, a sentence each.</param>
public sealed record FulfilmentTried(string? Sentence, IReadOnlyList<string> Would);

/// <summary>Whoever tells of orders by web hook.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Hook">The address of its web hook.</param>
/// <param name="Proof">How its calls are signed: <c>standard</c> (Standard Webhooks), <c>body</c>, <c>timestamp-body</c> (an HMAC in a header) or
/// <c>token</c>.</param>
/// <param name="Header">The header that the proof stands in.</param>
/// <param name="TimestampHeader">The header that the timestamp stands in.</param>
/// <param name="Prefix">What stands before the proof in its header.</param>
/// <param name="Base64">Whether the HMAC is in Base64; in hexadecimal unless.</param>
/// <param name="Sha512">Whether it is HMAC-SHA512; HMAC-SHA256 unless.</param>
/// <param name="Fields">Where the fields of an order stand, as JSON Pointers; empty where its calls are CloudEvents as we read them.</param>
/// <param name="Kinds">What the values of the kind mean.</param>
/// <param name="InUnits">Whether amounts are in the smallest unit of their currency.</param>
/// <param name="Currency">The currency where no field says it.</param>
/// <param name="Checkout">The address of its page for paying.</param>
/// <param name="OpensDoor">Whether the browser that paid is signed in by that.</param>
/// <param name="HasSecret">Whether it has a secret; without one it is believed nothing.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record OrderSourceView(
    string Key, string Title, string Hook, string Proof, string? Header, string? TimestampHeader, string? Prefix, bool Base64, bool Sha512,
    IReadOnlyDictionary<string, string> Fields, IReadOnlyDictionary<string, string> Kinds, bool InUnits, string? Currency, string? Checkout, bool OpensDoor,
    bool HasSecret, int Version);

/// <summary>A source of orders to be stored.</summary>
public sealed record OrderSourceDraft
{
    /// <summary>What people call it; its name unless said.</summary>
    public string? Title { get; init; }

    /// <summary><c>standard</c> unless said.</summary>
    public string? Proof { get; init; }

    /// <summary>The header that the proof stands in.</summary>
    public string? Header { get; init; }

    /// <summary>The header that the timestamp stands in.</summary>
    public string? TimestampHeader { get; init; }

    /// <summary>What stands before the proof in its header.</summary>
    public string? Prefix { get; init; }

    /// <summary>Whether the HMAC is in Base64.</summary>
    public bool? Base64 { get; init; }

    /// <summary>Whether it is HMAC-SHA512.</summary>
    public bool? Sha512 { get; init; }

    /// <summary>Where the fields stand.</summary>
    public IReadOnlyDictionary<string, string>? Fields { get; init; }

    /// <summary>What the values of the kind mean.</summary>
    public IReadOnlyDictionary<string, string>? Kinds { get; init; }

    /// <summary>Whether amounts are in the smallest unit.</summary>
    public bool? InUnits { get; init; }

    /// <summary>The currency where no field says it.</summary>
    public string? Currency { get; init; }

    /// <summary>The address of its page for paying; <c>{code}</c>, <c>{token}</c> and <c>{return}</c> in it are filled in.</summary>
    public string? Checkout { get; init; }

    /// <summary>Whether the browser that paid is signed in by that.</summary>
    public bool? OpensDoor { get; init; }
}

/// <summary>A secret for a source.</summary>
/// <param name="Secret">One that the other side has made; a new one is made unless said.</param>
/// <param name="AtOnce">Whether the one before counts no longer; for a day yet unless said.</param>
public sealed record SourceSecretDraft(string? Secret = null, bool? AtOnce = null);

/// <summary>A secret for a source, told once.</summary>
/// <param name="Secret">The secret.</param>
public sealed record SourceSecretView(string Secret);

/// <summary>Asks what would be read in a call.</summary>
/// <param name="Draft">How the source is set up.</param>
/// <param name="Example">What came, or an example of it.</param>
/// <param name="Form">Whether it is the fields of a form; found out unless said.</param>
public sealed record MappingTrial(OrderSourceDraft? Draft, string? Example, bool? Form = null);

/// <summary>What would be read in a call.</summary>
/// <param name="Kind">What happened; null where it is to be ignored, or cannot be read.</param>
/// <param name="Read">Each field that is read, in words.</param>
/// <param name="Faults">What cannot be read.</param>
/// <param name="Pointers">Everything in the example that can be pointed at, with what stands there.</param>
public sealed record MappingTried(string? Kind, IReadOnlyDictionary<string, string> Read, IReadOnlyList<string> Faults, IReadOnlyList<PointedAt> Pointers);

/// <summary>A place in an example.</summary>
/// <param name="Pointer">The JSON Pointer.</param>
/// <param name="Value">What stands there.</param>
public sealed record PointedAt(string Pointer, string Value);
