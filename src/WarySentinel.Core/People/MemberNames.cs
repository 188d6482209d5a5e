using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>Names that members are asked for by.</summary>
public static class MemberNames
{
    /// <summary>Where accounts stand, as it is written.</summary>
    public static readonly IReadOnlyList<string> Statuses = [.. Enum.GetNames<MemberStatus>().Select(s => s.ToLowerInvariant())];

    /// <summary>Reads a status; false where it is none.</summary>
    public static bool TryStatus(string? text, out MemberStatus status)
    {
        var place = Statuses.ToList().IndexOf(text ?? "");
        status = (MemberStatus)Math.Max(0, place);
        return place >= 0;
    }

    /// <summary>Reads what a member can hold: <c>role:</c>, <c>group:</c>, <c>plan:</c> or <c>bought:</c> with a key; false where it is none.</summary>
    public static bool TryFact(string? text, out (FactKind Kind, string Key) fact)
    {
        fact = default;
        if (text?.Split(':', 2) is not [var name, { Length: > 0 } key] || !FactNames.TryParse(name, out var kind)
            || kind is not (FactKind.Role or FactKind.Group or FactKind.Plan or FactKind.Bought))
        {
            return false;
        }

        fact = (kind, key);
        return true;
    }
}
