using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>A line of an effect: an item, with how many beneath it that change alike, for whom, before and after.</summary>
public sealed record EffectRow(
    Item Item, int AlsoBeneath, IReadOnlyList<string> ForWhom, Sight Before, Sight After, IReadOnlyList<string> Gained, IReadOnlyList<string> Lost);

/// <summary>What a change of gates would do, before it is saved.</summary>
/// <param name="ItemsClosing">Items that somebody loses something of.</param>
/// <param name="ItemsOpening">Items that somebody gains something of.</param>
/// <param name="MembersLosing">Members who lose something.</param>
/// <param name="MembersGaining">Members who gain something and lose nothing.</param>
/// <param name="MembersKeeping">Members for whom nothing changes.</param>
/// <param name="Elsewhere">Items that close although they also stand in a place that stays open.</param>
/// <param name="Rows">The changes, most telling first.</param>
/// <param name="MoreRows">How many rows were left out.</param>
public sealed record Effect(
    int ItemsClosing, int ItemsOpening, int MembersLosing, int MembersGaining, int MembersKeeping,
    IReadOnlyList<Item> Elsewhere, IReadOnlyList<EffectRow> Rows, int MoreRows)
{
    /// <summary>Some of those who lose something.</summary>
    public IReadOnlyList<string> LosingNames { get; init; } = [];

    /// <summary>Some of those who gain something and lose nothing.</summary>
    public IReadOnlyList<string> GainingNames { get; init; } = [];

    /// <summary>Compares two policies over the same catalogue, for members gathered by what they hold.</summary>
    public static Effect Between(Policy before, Policy after, IReadOnlyList<FactSet> members, DateTimeOffset now) =>
        EffectScope.Of(before, after, now).Weigh(members);
}
