using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>What a gate says, in words.</summary>
public static class GateWords
{
    /// <summary>What the refused get, in words.</summary>
    public static string OfAnswer(Gate gate) => gate.Answer switch
    {
        Answer.Auto => Words.Of(gate.Audience.AsksForPassword ? "answer.password" : "answer.sign-in"),
        var set => Words.Of("answer." + AnswerNames.NameOf(set), gate.RedirectTo),
    };

    /// <summary>The middle of the sentence alone: whom it admits to what.</summary>
    public static string Short(Gate gate, Policy policy)
    {
        var everyOrNone = gate.Audience is Audience.Plain { Atom: PlainAtom.Anyone or PlainAtom.Nobody };
        var text = (everyOrNone ? "" : Words.Of("sentence.only")) + OfAudience(gate.Audience, policy) + Words.Of("sentence.may") + OfActs(gate) + ".";
        return char.ToUpperInvariant(text[0]) + text[1..];
    }

    /// <summary>An audience in words.</summary>
    public static string OfAudience(Audience audience, Policy policy) => audience switch
    {
        Audience.Plain plain => Words.Of("audience." + plain),
        Audience.Fact fact => Words.Of("audience." + FactNames.NameOf(fact.Kind), FactTitle(fact, policy)),
        Audience.Network network => Words.Of("audience.from-network", network.Range),
        Audience.Not not => Words.Of("audience.but", not.Inner is Audience.Many ? $"({OfAudience(not.Inner, policy)})" : OfAudience(not.Inner, policy)),
        Audience.Many { All: true } all => string.Join(Words.Of("audience.and"), all.Parts.Select(p => Nested(p, policy))),
        Audience.Many any => string.Join(Words.Of("audience.or"), any.Parts.Select(p => OfAudience(p, policy))),
        _ => audience.ToString()!,
    };

    /// <summary>What a gate guards, in words.</summary>
    public static string OfActs(Gate gate)
    {
        if (gate.Acts == Acts.Usual)
        {
            // All that a gate guards, named by what can be done with what it covers.
            var kinds = gate.Covers.Select(c => c.Item?.Kind ?? ItemKind.Page).Distinct().ToList();
            return Words.Of(kinds.TrueForAll(k => k == ItemKind.Download) ? "acts.download"
                : kinds.TrueForAll(k => k is ItemKind.Show or ItemKind.Episode) ? "acts.listen"
                : kinds.TrueForAll(k => k is ItemKind.Page or ItemKind.Section) ? "acts.open" : "acts.usual");
        }

        var each = ActNames.NamesOf(gate.Acts & ~Acts.List).Select(n => Words.Of("acts." + n)).ToList();
        return each.Count < 2 ? string.Concat(each) : string.Join(", ", each[..^1]) + Words.Of("audience.or") + each[^1];
    }

    private static string Nested(Audience part, Policy policy) =>
        part is Audience.Many { All: false } ? $"({OfAudience(part, policy)})" : OfAudience(part, policy);

    private static string FactTitle(Audience.Fact fact, Policy policy)
    {
        if (fact.Kind == FactKind.Bought)
        {
            return ItemId.TryParse(fact.Key, out var id) ? policy.Graph.Find(id)?.Title ?? fact.Key : fact.Key;
        }

        if (fact.Kind == FactKind.Role && Visitor.StaffRoles.Contains(fact.Key))
        {
            return Words.Of("role." + fact.Key);
        }

        var title = policy.FindDefinition(fact.Kind, fact.Key)?.Title ?? fact.Key;
        return fact.Kind is FactKind.Role or FactKind.Group && title.Length > 1 && char.IsLower(title[1]) ? char.ToLowerInvariant(title[0]) + title[1..]
            : title;
    }
}
