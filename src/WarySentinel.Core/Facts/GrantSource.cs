namespace WarySentinel.Core.Facts;

/// <summary>What a grant came from: a kind and a reference of it, such as <c>order:4711</c>. By hand there is no reference.</summary>
public readonly record struct GrantSource
{
    /// <summary>The kinds that can be said when something is given; organisations, and programs that are in step with us, give by themselves.</summary>
    public static readonly IReadOnlyList<string> Kinds = ["hand", "import", "invitation", "form", "order"];

    /// <summary>Given by somebody, without a reference.</summary>
    public static readonly GrantSource Hand = new("hand", "");

    /// <summary>Given with an invitation.</summary>
    public static readonly GrantSource Invitation = new("invitation", "");

    private const int LongestReference = 120;
    private readonly string? kind;
    private readonly string? reference;

    private GrantSource(string kind, string reference) => (this.kind, this.reference) = (kind, reference);

    /// <summary>One of <see cref="Kinds"/>, <c>organisation</c> or <c>sync</c>; what an earlier or later version stored may be another.</summary>
    public string Kind => kind ?? "hand";

    /// <summary>The order, invitation, file or form; empty where there is none.</summary>
    public string Reference => reference ?? "";

    /// <summary>Held through an organisation, for as long as it lasts and somebody belongs to it.</summary>
    public static GrantSource OfOrganisation(string key) => new("organisation", key);

    /// <summary>Given by another program that is in step with us, under its name for the person.</summary>
    public static GrantSource OfSync(string program, string key) => new("sync", $"{program}:{key}");

    /// <summary>Whether an organisation gives it, and nobody else takes it away.</summary>
    public bool IsOrganisation => Kind == "organisation";

    /// <summary>As it is stored.</summary>
    public static GrantSource Stored(string kind, string reference) => new(kind, reference);

    /// <summary>Reads <c>hand</c>, <c>order:4711</c>; false on another kind, a reference by hand, or one that is missing, too long or not clean text.</summary>
    public static bool TryParse(string? text, out GrantSource source)
    {
        var (kind, reference) = (text?.Trim() ?? "").Split(':', 2) is [var k, var r] ? (k, r.Trim()) : (text?.Trim() ?? "", "");
        source = new GrantSource(kind, reference);
        return Kinds.Contains(kind) && reference.Length <= LongestReference && PlainText.IsClean(reference) && (reference.Length == 0) == (kind == "hand");
    }

    /// <inheritdoc/>
    public override string ToString() => Reference.Length == 0 ? Kind : $"{Kind}:{Reference}";
}
