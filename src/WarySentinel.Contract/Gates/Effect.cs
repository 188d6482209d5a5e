using WarySentinel.Contract.Catalogue;

namespace WarySentinel.Contract.Gates;

/// <summary>A line of an effect: what changes for whom, on an item and all beneath it.</summary>
public sealed record EffectRowView(
    string Item, string Title, int AlsoBeneath, IReadOnlyList<string> ForWhom, string Before, string After, IReadOnlyList<string> Gained,
    IReadOnlyList<string> Lost);

/// <summary>What a change would do.</summary>
public sealed record EffectView(
    int ItemsClosing, int ItemsOpening, int MembersLosing, int MembersGaining, int MembersKeeping, IReadOnlyList<string> LosingNames,
    IReadOnlyList<string> GainingNames, IReadOnlyList<ItemName> Elsewhere, IReadOnlyList<EffectRowView> Rows, int MoreRows,
    string Sentence, IReadOnlyList<SentencePart> Parts, string? Audience, IReadOnlyList<IReadOnlyList<string>>? AudienceRows);
