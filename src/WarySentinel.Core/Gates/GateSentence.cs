using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

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
        sentence.Blank("audience", GateWords.OfAudience(gate.Audience, policy));
        sentence.Plain(Words.Of("sentence.may"));
        sentence.Blank("acts", GateWords.OfActs(gate));
        sentence.Plain(Words.Of("sentence.others"));
        sentence.Blank("presence", Words.Of(gate.Presence == Presence.Hidden ? "sentence.hidden" : "sentence.listed"));
        sentence.Plain(Words.Of("sentence.if-address"));
        sentence.Blank("answer", GateWords.OfAnswer(gate));
        sentence.Plain(".");
        return sentence;
    }

    /// <inheritdoc/>
    public override string ToString() => string.Concat(parts.Select(p => p.Text));

    private static string Covers(Gate gate, Policy policy)
    {
        var titles = gate.Covers.Select(c => c.Item is { } id
            ? policy.Graph.Find(id)?.Title ?? Words.Of("sentence.gone", id)
            : Words.Of("sentence.addresses", c.Path!.Text)).ToList();
        return titles.Count < 2 ? string.Concat(titles) : string.Join(", ", titles[..^1]) + Words.Of("sentence.and") + titles[^1];
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
