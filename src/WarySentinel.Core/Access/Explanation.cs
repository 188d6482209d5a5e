using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>One step of an explanation: a gate that reached, how, and what came of it.</summary>
public sealed record ExplanationStep(string? Gate, string Title, string Way, string? Sentence, string Verdict, bool? Admitted);

/// <summary>A decision told as a person would tell it.</summary>
/// <param name="Headline">The outcome in a sentence.</param>
/// <param name="Steps">The gates that reached it, nearest first, then those that were lifted.</param>
/// <param name="Opens">What would open it; empty when it is open.</param>
/// <param name="Meets">What the visitor finds there.</param>
public sealed record Explanation(string Headline, IReadOnlyList<ExplanationStep> Steps, IReadOnlyList<string> Opens, string Meets)
{
    /// <summary>Explains a decision about an item.</summary>
    /// <param name="policy">The policy that decided.</param>
    /// <param name="decision">What it decided.</param>
    /// <param name="visitor">About whom.</param>
    /// <param name="who">How to call the visitor, as the start of a sentence.</param>
    /// <param name="what">How to call the item or address.</param>
    /// <param name="act">The act decided.</param>
    /// <param name="now">The time of the decision.</param>
    public static Explanation Of(Policy policy, Decision decision, Visitor visitor, string who, string what, Acts act, DateTimeOffset now)
    {
        var place = decision.Items.Count > 0 ? policy.Graph.PlaceOf(decision.Items[0]) : -1;
        var listed = place < 0 || policy.Allows(visitor, place, Acts.List, now);
        var steps = decision.Reasons.Select(r => Step(policy, r, who, what, act)).ToList();
        steps.AddRange(Lifted(policy, decision, now));
        if (decision.ByStaff)
        {
            steps.Add(new ExplanationStep(null, Words.Of("why.staff-title"), Words.Of("why.staff"), null, "", true));
        }

        var verb = Words.Of("acts.verb-" + ActNames.NameOf(act));
        var headline = Words.Of(
            decision.Allowed ? "why.may" : listed || act == Acts.List ? "why.may-not" : "why.may-not-hidden", who, verb, what);
        var opens = decision.Allowed ? [] : OpensOf(policy, decision, visitor, what);
        return new Explanation(headline, steps, opens, MeetsOf(decision, listed, steps.Count));
    }

    private static ExplanationStep Step(Policy policy, Reason reason, string who, string what, Acts act)
    {
        string TitleOf(ItemId id) => policy.Graph.Find(id)?.Title ?? id.ToString();
        var way = reason.Pattern is { } pattern
            ? Words.Of("why.by-pattern", what, pattern.Text)
            : reason.Way.Count switch
            {
                1 => reason.Way[0] == ItemId.Site ? Words.Of("why.by-site", what) : Words.Of("why.by-itself", what),
                2 => reason.Way[1] == ItemId.Site ? Words.Of("why.by-site", what) : Words.Of("why.by-parent", what, TitleOf(reason.Way[1])),
                _ => Words.Of("why.by-way", what, string.Join(" › ", reason.Way.Skip(1).Select(TitleOf))),
            };
        var verdict = !reason.Guards ? Words.Of("why.other-act", Words.Of("acts.verb-" + ActNames.NameOf(act)))
            : Words.Of(reason.Admitted ? "why.admitted" : "why.refused", who);
        return new ExplanationStep(reason.Gate.Key, reason.Gate.Title, way, GateWords.Short(reason.Gate, policy), verdict, reason.Guards ? reason.Admitted
            : null);
    }

    private static IEnumerable<ExplanationStep> Lifted(Policy policy, Decision decision, DateTimeOffset now) =>
        policy.LiftsOf(decision, now).Select(l => new ExplanationStep(
            l.Gate.Key, l.Gate.Title, Words.Of("why.lifted", string.Join(", ", l.By.Select(e => e.Title))), null, "", null));

    private static List<string> OpensOf(Policy policy, Decision decision, Visitor visitor, string what)
    {
        var opens = new List<string>();
        foreach (var reason in decision.Reasons.Where(r => r.Guards && !r.Admitted))
        {
            var audience = GateWords.OfAudience(reason.Gate.Audience, policy);
            opens.Add(reason.Gate.Audience is Audience.Plain { Atom: PlainAtom.Nobody }
                ? Words.Of("why.opens-nobody", reason.Gate.Title)
                : Words.Of(visitor.IsSignedIn || reason.Gate.Audience.AsksForPassword ? "why.opens-being" : "why.opens-signing-in", audience));
        }

        if (opens.Count > 1)
        {
            opens.Insert(0, Words.Of("why.opens-all"));
        }

        opens.Add(Words.Of("why.opens-exemption", what));
        return opens;
    }

    private static string MeetsOf(Decision decision, bool listed, int steps)
    {
        if (decision.Allowed)
        {
            return Words.Of(steps == 0 ? "why.meets-ungated" : "why.meets-open");
        }

        var refusal = decision.Refusal!;
        return Words.Of(listed ? "why.meets-listed" : "why.meets-hidden") + " "
            + Words.Of("meets." + AnswerNames.NameOf(refusal.Answer), refusal.Gate.RedirectTo);
    }
}
