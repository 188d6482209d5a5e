using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
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
        sentence.Plain(GateWords.BeforeAudience(gate));
        sentence.Blank("audience", GateWords.OfAudience(gate.Audience, policy));
        sentence.Plain(Words.Of("sentence.may"));
        sentence.Blank("acts", GateWords.OfActs(gate));
        sentence.Plain(Words.Of("sentence.others"));
        sentence.Blank("presence", Words.Of(gate.Presence == Presence.Hidden ? "sentence.hidden" : "sentence.listed"));
        sentence.Plain(Words.Of("sentence.if-address"));
        sentence.Blank("answer", GateWords.OfAnswer(gate));
        sentence.Plain(".");
        if (gate.Basic != BasicUse.No)
        {
            sentence.Plain(" ");
            sentence.Blank("basic", Words.Of(gate.Basic == BasicUse.Tools ? "sentence.basic-tools" : "sentence.basic-everybody"));
            sentence.Plain(".");
        }

        return sentence;
    }

    /// <inheritdoc/>
    public override string ToString() => string.Concat(parts.Select(p => p.Text));

    private static string Covers(Gate gate, Policy policy)
    {
        var closed = gate.Covers.Select(c => c.Path?.Text).OfType<string>().ToHashSet(StringComparer.Ordinal);
        var titles = gate.Covers.Where(c => c.Path is not { } path || FolderOf(path) is not { } folder || !closed.Contains(folder)).Select(c => c.Item is { } id
            ? policy.Graph.Find(id)?.Title ?? Words.Of("sentence.gone", id) : OfAddress(c.Path!, closed)).ToList();
        return titles.Count < 2 ? string.Concat(titles) : string.Join(", ", titles[..^1]) + Words.Of("sentence.and") + titles[^1];
    }

    /// <summary>An address, with all beneath it where that is closed, too.</summary>
    private static string OfAddress(Address path, HashSet<string> closed) =>
        FolderOf(path) is { Length: > 0 } folder ? Words.Of("sentence.beneath", folder)
        : path.IsPattern ? Words.Of("sentence.addresses", path.Text)
        : Words.Of(closed.Contains(path.Text + "/**") ? "sentence.branch" : "sentence.address", path.Text);

    /// <summary>The folder of a pattern that stands for all beneath one; null for any other address.</summary>
    private static string? FolderOf(Address path) =>
        path.Text.EndsWith("/**", StringComparison.Ordinal) && path.Text.AsSpan(0, path.Text.Length - 3).IndexOfAny('*', '?', '[') < 0 ? path.Text[..^3] : null;

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
