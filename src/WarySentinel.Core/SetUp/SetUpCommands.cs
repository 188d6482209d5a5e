using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People;
using WarySentinel.Core.Redirects;
using WarySentinel.Core.SiteFile;

namespace WarySentinel.Core.SetUp;

/// <summary>
/// Makes a site of the owner's answers in one edit: its settings, plans, a gate and a redirect, always under the same names, so that saying it again
/// changes what is said otherwise and nothing else. What was made finer by hand since stays (docs/how-to/set-up.md).
/// </summary>
public static class SetUpCommands
{
    private const int MostClosed = 50;
    private const int MostSold = 50;
    private const int Position = 50;

    /// <summary>The parts of a site file that answers become, and the answer that each field of theirs was made of.</summary>
    private enum Part
    {
        Plan = 1,
        Gate,
        Redirect,
    }

    /// <summary>The difference that the answers make, and the edit that makes it; none where nothing changes, or something is wrong.</summary>
    /// <param name="policy">The policy as it is.</param>
    /// <param name="answers">What the owner says.</param>
    /// <param name="look">The look that was found on the site; null to leave it.</param>
    /// <param name="around">What gate commands need to know.</param>
    /// <param name="isMember">Whether an audience may name that e-mail address.</param>
    public static (SiteDifference Difference, Edit? Edit) Apply(
        Policy policy, SetUpAnswers answers, SiteLook? look, GateSurroundings around, Func<string, bool> isMember)
    {
        var wrong = Odd(answers);
        var set = SettingsCommands.Set(policy, Over(policy.Settings, answers, look), null, around);
        wrong.AddRange(set.Problem?.Faults.Select(f => f with { Field = AnswerOf(f.Field) }) ?? []);
        var fields = set.IsGood ? Detail.ChangesOf(set.Value.ToStore.Detail).Where(c => c.Field != "version").ToList() : [];
        var isSet = fields.Count > 0;
        var between = isSet ? policy.TryAfter(set.Value.ToStore).Value : policy;
        var (file, edit) = SiteFileCommands.Apply(
            between, Written(policy, answers), [], false, around, isMember, (_, _) => 0, (_, _, _) => { });
        wrong.AddRange(file.Faults.Select(Located));
        if (wrong.Count > 0)
        {
            return (file with { Faults = wrong, Changes = [] }, null);
        }

        var changes = isSet ? new SiteChange("settings", "site", "changed", fields) : null;
        var difference = changes is null ? file : file with { Changed = file.Changed + 1, Changes = [changes, .. file.Changes] };
        return (difference, difference.IsEmpty ? null : Together(isSet ? set.Value.ToStore : null, edit, difference));
    }

    /// <summary>One edit of both, so that all of it is made or nothing.</summary>
    private static Edit Together(Edit? settings, Edit? file, SiteDifference difference) =>
        new("setup", "site", [.. settings?.Changes ?? [], .. file?.Changes ?? []], null, Words.Of("apply.summary", difference.Added, difference.Changed, 0))
        {
            Notes = [.. settings is null ? [] : new[] { settings with { Changes = [] } }, .. file?.Notes ?? []],
        };

    /// <summary>What is wrong with the answers themselves.</summary>
    private static List<Fault> Odd(SetUpAnswers answers)
    {
        var wrong = new List<Fault>();
        void Unless(bool good, string field, string code, params object?[] values)
        {
            if (!good)
            {
                wrong.Add(new Fault(field, Wording.Of("problem." + code, values)));
            }
        }

        Unless(answers.SignIn is null or "password" or "letter", "signIn", "not-one-of", answers.SignIn, "password, letter");
        Unless(answers.Others is null or "listed" or "hidden", "others", "not-one-of", answers.Others, "listed, hidden");
        Unless(answers.Closed is not { Count: > MostClosed }, "closed", "setup-many", MostClosed);
        Unless(answers.Sells is not { Count: > MostSold }, "sells", "setup-many", MostSold);
        Unless(answers.Closed is not { Count: 0 }, "closed", "setup-nothing");
        return wrong;
    }

    private static SiteSettings Over(SiteSettings old, SetUpAnswers answers, SiteLook? look) => old with
    {
        SiteName = answers.Name?.Trim() ?? old.SiteName,
        Language = answers.Language?.Trim() ?? old.Language,
        TimeZone = answers.TimeZone?.Trim() ?? old.TimeZone,
        Look = look ?? old.Look,
        Joining = answers.Joining is { } way ? old.Joining with { Way = JoinSettings.WayOf(way) } : old.Joining,
        Letters = old.Letters with
        {
            SignIn = answers.SignIn is { } by ? by == "letter" : old.Letters.SignIn,
            NoticesTo = answers.Notices is null ? old.Letters.NoticesTo : answers.Notices.Trim() is { Length: > 0 } to ? to : null,
        },
    };

    /// <summary>The answers as parts of a site file; each says over what is there no more than what was answered.</summary>
    private static SiteDocument Written(Policy policy, SetUpAnswers answers) => new()
    {
        Plans = answers.Sells is not { } sold ? null : [.. sold.Take(MostSold).Select(s => As(Part.Plan, Plan(policy, s)))],
        Gates = GateOf(policy, answers) is { } gate ? [As(Part.Gate, gate)] : null,
        Redirects = answers.Lands is { Length: > 0 } lands ? [As(Part.Redirect, Landing(policy, lands.Trim()))] : null,
    };

    private static FactDraft Plan(Policy policy, Sold sold) => policy.FindDefinition(FactKind.Plan, sold.PlanKey) is { } there
        ? FactDraft.Of(there, null) with { Title = sold.Title, Length = sold.Length ?? there.Length?.ToString() }
        : new FactDraft(sold.PlanKey, sold.Title) { Length = sold.Length };

    /// <summary>The gate as it is, or as it is made, with what was answered; null where nothing was, or where there is nothing for it to close.</summary>
    private static GateDraft? GateOf(Policy policy, SetUpAnswers answers)
    {
        var there = policy.FindGate(SetUpAnswers.Gate) is { } gate ? GateDraft.Of(gate) : null;
        if (answers.Closed is not { Count: > 0 } && (there is null || (answers.Who ?? answers.Others) is null))
        {
            return null;
        }

        var draft = there ?? new GateDraft { Key = SetUpAnswers.Gate, Title = Words.Of("setup.gate") };
        return draft with
        {
            Covers = answers.Closed is { Count: > 0 } closed ? [.. closed.Take(MostClosed).Select(c => SelectorOf(c.Trim())).Distinct()] : draft.Covers,
            Audience = there is null || answers.Who is not null || answers.Sells is not null ? answers.Audience : draft.Audience,
            Presence = answers.Others ?? draft.Presence,
        };
    }

    private static RedirectDraft Landing(Policy policy, string lands) =>
        RedirectBook.Of(policy).All.FirstOrDefault(r => r.Key == SetUpAnswers.Redirect) is { } there ? RedirectDraft.Of(there) with { To = lands }
            : new RedirectDraft(SetUpAnswers.Redirect, "sign-in", "signed-in", lands, Position);

    private static string SelectorOf(string closed) => closed.StartsWith('/') ? "path:" + closed : closed;

    private static Written<T> As<T>(Part part, T draft) => new(draft, _ => ((int)part, 0));

    /// <summary>A fault of a part, told of the answer that it was made of.</summary>
    private static Fault Located(Fault fault) => new(
        (Part)(fault.Line ?? 0) switch
        {
            Part.Plan => "sells",
            Part.Redirect => "lands",
            Part.Gate when fault.Field == "audience" => "who",
            _ => "closed",
        },
        fault.Message);

    private static string AnswerOf(string setting) => setting switch
    {
        "siteName" => "name",
        "letters.noticesTo" => "notices",
        _ => setting.Split('.')[0],
    };
}
