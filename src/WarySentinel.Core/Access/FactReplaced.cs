using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>
/// Puts another expression in place of a fact wherever an audience names it: in gates, in what rooms above keep, in the rules of groups. So a role can
/// be renamed, copied or retired without anybody's having to look for it.
/// </summary>
public sealed record FactReplaced(FactKind Kind, string Key, Audience Instead) : Change.OfPolicy
{
    /// <summary>An audience as it is after this; the very same where it does not name the fact.</summary>
    public Audience In(Audience audience) => audience.Replacing(f => f.Kind == Kind && f.Key == Key ? Instead : f);

    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var gates = draft.Part<GatesDraft>().Gates;
        foreach (var gate in gates.Values.ToList())
        {
            if (In(gate.Audience) is var audience && !ReferenceEquals(audience, gate.Audience))
            {
                gates[gate.Key] = gate with { Audience = audience, Version = gate.Version + 1 };
            }
        }

        foreach (var part in draft.Parts.OfType<IPolicyPart>().ToList())
        {
            draft.Set(part.Mapped(In));
        }
    }
}
