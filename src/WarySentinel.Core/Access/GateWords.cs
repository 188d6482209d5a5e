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
        var text = BeforeAudience(gate) + OfAudience(gate.Audience, policy) + Words.Of("sentence.may") + OfActs(gate) + ".";
        return char.ToUpperInvariant(text[0]) + text[1..];
    }

    /// <summary>What a sentence says before whom a gate admits: that it is these alone, unless it is everybody or nobody.</summary>
    public static string BeforeAudience(Gate gate) =>
        (gate.Audience is Audience.Plain { Atom: PlainAtom.Anyone or PlainAtom.Nobody } ? "" : Words.Of("sentence.only")) + Words.Of("sentence.for");

    /// <summary>An audience in words of the staff, in the language of whoever asks.</summary>
    public static string OfAudience(Audience audience, Policy policy) => OfAudience(audience, policy, Words.Current);

    /// <summary>An audience in words of a book, with the owner's own titles in it where they have some in that language.</summary>
    public static string OfAudience(Audience audience, Policy policy, Wordbook book) => audience switch
    {
        Audience.Plain plain => book["audience." + plain],
        Audience.Fact fact => book.Of("audience." + FactNames.NameOf(fact.Kind), FactTitle(fact, policy, book)),
        Audience.Network network => book.Of("audience.from-network", network.Range),
        Audience.Not { Inner: Audience.Many } not => book.Of("audience.but", $"({OfAudience(not.Inner, policy, book)})"),
        Audience.Not not => book.Of("audience.but", OfAudience(not.Inner, policy, book)),
        Audience.Many { All: true } all => string.Join(book["audience.and"], all.Parts.Select(p => Nested(p, policy, book))),
        Audience.Many any => string.Join(book["audience.or"], any.Parts.Select(p => OfAudience(p, policy, book))),
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

    private static string Nested(Audience part, Policy policy, Wordbook book) =>
        part is Audience.Many { All: false } ? $"({OfAudience(part, policy, book)})" : OfAudience(part, policy, book);

    private static string FactTitle(Audience.Fact fact, Policy policy, Wordbook book)
    {
        if (fact.Kind == FactKind.Bought)
        {
            return ItemId.TryParse(fact.Key, out var id) ? policy.Graph.Find(id)?.Title ?? fact.Key : fact.Key;
        }

        if (fact.Kind == FactKind.Role && Visitor.StaffRoles.Contains(fact.Key))
        {
            return book["role." + fact.Key];
        }

        if (book.FindOwn($"{FactNames.NameOf(fact.Kind)}:{fact.Key}.title") is { } own)
        {
            return own;
        }

        var title = policy.FindDefinition(fact.Kind, fact.Key)?.Title ?? fact.Key;
        // Within a sentence names of people are written small, but in German.
        return fact.Kind is FactKind.Role or FactKind.Group && book.Language != "de" && title.Length > 1 && char.IsLower(title[1])
            ? char.ToLowerInvariant(title[0]) + title[1..] : title;
    }
}
