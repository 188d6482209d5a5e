using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>A stretch of a gate's sentence.</summary>
/// <param name="Edits">The field of the gate that this stretch says, or null for the words between.</param>
/// <param name="Text">The words.</param>
public sealed record SentencePart(string? Edits, string Text);

/// <summary>A gate as a sentence, in parts of which some are controls.</summary>
public sealed class GateSentence
{
    private readonly List<SentencePart> parts = [];

    private GateSentence()
    {
    }

    /// <summary>The parts in order; joined they read as the sentence.</summary>
    public IReadOnlyList<SentencePart> Parts => parts;

    /// <summary>The sentence of a gate.</summary>
    public static GateSentence Of(Gate gate, Policy policy)
    {
        var sentence = new GateSentence();
        sentence.Dates(gate, new SiteDates(policy.Settings.TimeZone));
        sentence.Blank("covers", Covers(gate, policy));
        if (!gate.Covers.All(c => c.Path is not null))
        {
            sentence.Plain(gate.ItemOnly ? ", " : Words.Of("sentence.and"));
            sentence.Blank("reach", Words.Of(gate.ItemOnly ? "sentence.itself" : gate.Covers.Count == 1 ? "sentence.all-in-it" : "sentence.all-in-them"));
        }

        if (gate.IsExemption)
        {
            sentence.Plain(": ");
            sentence.Blank("kind", Words.Of("sentence.exempt"));
            sentence.Plain(".");
            return sentence;
        }

        sentence.Plain(": ");
        var everyOrNone = gate.Audience is Audience.Plain { Atom: PlainAtom.Anyone or PlainAtom.Nobody };
        sentence.Plain(everyOrNone ? "" : Words.Of("sentence.only"));
        sentence.Blank("audience", AudienceWords(gate.Audience, policy));
        sentence.Plain(Words.Of("sentence.may"));
        sentence.Blank("acts", ActWords(gate));
        sentence.Plain(Words.Of("sentence.others"));
        sentence.Blank("presence", Words.Of(gate.Presence == Presence.Hidden ? "sentence.hidden" : "sentence.listed"));
        sentence.Plain(Words.Of("sentence.if-address"));
        sentence.Blank("answer", AnswerWords(gate));
        sentence.Plain(".");
        return sentence;
    }

    /// <summary>What the refused get, in words.</summary>
    public static string AnswerWords(Gate gate) => gate.Answer switch
    {
        Answer.Auto => Words.Of(gate.Audience.AsksForPassword ? "answer.password" : "answer.sign-in"),
        var set => Words.Of("answer." + AnswerNames.NameOf(set), gate.RedirectTo),
    };

    /// <summary>The middle of the sentence alone: whom it admits to what.</summary>
    public static string Short(Gate gate, Policy policy)
    {
        var everyOrNone = gate.Audience is Audience.Plain { Atom: PlainAtom.Anyone or PlainAtom.Nobody };
        var text = (everyOrNone ? "" : Words.Of("sentence.only")) + AudienceWords(gate.Audience, policy) + Words.Of("sentence.may") + ActWords(gate) + ".";
        return char.ToUpperInvariant(text[0]) + text[1..];
    }

    /// <summary>An audience in words.</summary>
    public static string AudienceWords(Audience audience, Policy policy) => audience switch
    {
        Audience.Plain plain => Words.Of("audience." + plain),
        Audience.Fact fact => Words.Of("audience." + FactNames.NameOf(fact.Kind), FactTitle(fact, policy)),
        Audience.Network network => Words.Of("audience.from-network", network.Range),
        Audience.Not not => Words.Of("audience.but", not.Inner is Audience.Many ? $"({AudienceWords(not.Inner, policy)})" : AudienceWords(not.Inner, policy)),
        Audience.Many { All: true } all => string.Join(Words.Of("audience.and"), all.Parts.Select(p => Nested(p, policy))),
        Audience.Many any => string.Join(Words.Of("audience.or"), any.Parts.Select(p => AudienceWords(p, policy))),
        _ => audience.ToString()!,
    };

    /// <summary>What a gate guards, in words.</summary>
    public static string ActWords(Gate gate)
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

    /// <inheritdoc/>
    public override string ToString() => string.Concat(parts.Select(p => p.Text));

    private static string Nested(Audience part, Policy policy) =>
        part is Audience.Many { All: false } ? $"({AudienceWords(part, policy)})" : AudienceWords(part, policy);

    private static string Covers(Gate gate, Policy policy)
    {
        var titles = gate.Covers.Select(c => c.Item is { } id
            ? policy.Graph.Find(id)?.Title ?? Words.Of("sentence.gone", id)
            : Words.Of("sentence.addresses", c.Path!.Text)).ToList();
        return titles.Count < 2 ? string.Concat(titles) : string.Join(", ", titles[..^1]) + Words.Of("sentence.and") + titles[^1];
    }

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

        var title = policy.FindStanding(fact.Kind, fact.Key)?.Title ?? fact.Key;
        return fact.Kind is FactKind.Role or FactKind.Group && title.Length > 1 && char.IsLower(title[1]) ? char.ToLowerInvariant(title[0]) + title[1..]
            : title;
    }

    private void Dates(Gate gate, SiteDates dates)
    {
        var from = gate.From is { } start ? dates.Say(start, false) : null;
        var until = gate.Until is { } end ? dates.Say(end, true) : null;
        if (from is not null || until is not null)
        {
            Blank("dates", Words.Of(from is null ? "sentence.until" : until is null ? "sentence.from" : "sentence.from-until", from ?? until, until));
            Plain(", ");
        }
    }

    private void Plain(string text)
    {
        if (text.Length > 0)
        {
            parts.Add(new SentencePart(null, text));
        }
    }

    private void Blank(string edits, string text) => parts.Add(new SentencePart(edits, text));
}
