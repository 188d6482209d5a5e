using WarySentinel.Core.Audio;
using WarySentinel.Core.Files;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Letters;
using WarySentinel.Core.Pages;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Orders;
using WarySentinel.Core.Prices;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Core.SiteFile;

/// <summary>Something written in a site file, and where each of its fields stands.</summary>
/// <param name="Draft">What is written.</param>
/// <param name="Place">Gives line and column of a field (from 1), or of the entry itself for a field that is not written.</param>
public sealed record Written<T>(T Draft, Func<string, (int Line, int Column)> Place);

/// <summary>The words of a letter as they stand in a site file.</summary>
/// <param name="Kind">The kind of letter.</param>
/// <param name="Language">The language (RFC 5646 tag).</param>
/// <param name="Words">Subject, HTML and text.</param>
public sealed record WrittenTemplate(string? Kind, string? Language, TemplateDraft Words);

/// <summary>A site as text: what is guarded, by whom it may be had, where people land. A section that is null is not in the file.</summary>
public sealed record SiteDocument
{
    /// <summary>Roles.</summary>
    public IReadOnlyList<Written<FactDraft>>? Roles { get; init; }

    /// <summary>Groups.</summary>
    public IReadOnlyList<Written<FactDraft>>? Groups { get; init; }

    /// <summary>Plans.</summary>
    public IReadOnlyList<Written<FactDraft>>? Plans { get; init; }

    /// <summary>Kinds of passes.</summary>
    public IReadOnlyList<Written<FactDraft>>? PassKinds { get; init; }

    /// <summary>Items.</summary>
    public IReadOnlyList<ItemDraft>? Items { get; init; }

    /// <summary>Gates.</summary>
    public IReadOnlyList<Written<GateDraft>>? Gates { get; init; }

    /// <summary>Exemptions.</summary>
    public IReadOnlyList<Written<GateDraft>>? Exemptions { get; init; }

    /// <summary>What orders give.</summary>
    public IReadOnlyList<Written<FulfilmentDraft>>? Fulfilment { get; init; }

    /// <summary>Folders to download from.</summary>
    public IReadOnlyList<Written<AreaDraft>>? Areas { get; init; }

    /// <summary>Shows that are listened to.</summary>
    public IReadOnlyList<Written<ShowDraft>>? Shows { get; init; }

    /// <summary>Price lists; null where the file does not speak of them.</summary>
    public IReadOnlyList<Written<PriceDraft>>? Prices { get; init; }

    /// <summary>Coupons; null where the file does not speak of them.</summary>
    public IReadOnlyList<Written<CouponDraft>>? Coupons { get; init; }

    /// <summary>Carts; null where the file does not speak of them.</summary>
    public IReadOnlyList<Written<CartDraft>>? Carts { get; init; }

    /// <summary>Rules of entries.</summary>
    public IReadOnlyList<Written<EntryDraft>>? Entries { get; init; }

    /// <summary>What is set of the service's own pages.</summary>
    public IReadOnlyList<Written<PageDraft>>? VisitorPages { get; init; }

    /// <summary>The owner's words on pages, one entry a language.</summary>
    public IReadOnlyList<Written<TextsDraft>>? Texts { get; init; }

    /// <summary>Redirects.</summary>
    public IReadOnlyList<Written<RedirectDraft>>? Redirects { get; init; }

    /// <summary>Terms that members agree to.</summary>
    public IReadOnlyList<Written<TermsDraft>>? Terms { get; init; }

    /// <summary>Fields of forms.</summary>
    public IReadOnlyList<Written<FieldDraft>>? Fields { get; init; }

    /// <summary>Forms by which people join.</summary>
    public IReadOnlyList<Written<FormDraft>>? Forms { get; init; }

    /// <summary>What the site is called and how it is read.</summary>
    public Written<SiteDraft>? Site { get; init; }

    /// <summary>How the visitor's pages are dressed.</summary>
    public Written<LookDraft>? Look { get; init; }

    /// <summary>Who may join where their form doesn't say, and by which mail domains.</summary>
    public Written<JoiningDraft>? Joining { get; init; }

    /// <summary>The directory of members.</summary>
    public Written<DirectoryDraft>? Directory { get; init; }

    /// <summary>The owner's words for letters.</summary>
    public IReadOnlyList<Written<WrittenTemplate>>? Letters { get; init; }
}

/// <summary>What a site file would change, or did.</summary>
/// <param name="Added">How many things are new.</param>
/// <param name="Changed">How many say something else.</param>
/// <param name="Removed">How many go; only where pruning was asked for.</param>
/// <param name="Same">How many stay.</param>
/// <param name="Beside">How many things stand in the store and not in the file, and stay.</param>
/// <param name="Changes">The changes, a bounded number of them.</param>
/// <param name="MoreChanges">How many were left out of the list.</param>
/// <param name="Kept">What pruning leaves because somebody holds it, in sentences.</param>
/// <param name="Faults">What is wrong, with line and column; nothing is stored then.</param>
public sealed record SiteDifference(
    int Added, int Changed, int Removed, int Same, int Beside, IReadOnlyList<SiteChange> Changes, int MoreChanges, IReadOnlyList<Wording> Kept,
    IReadOnlyList<Fault> Faults)
{
    /// <summary>Whether nothing would change.</summary>
    public bool IsEmpty => Added + Changed + Removed == 0;
}
