using System.Text;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>Asks for one address after the other, and says what each came to. It keeps nothing.</summary>
internal sealed class SweepAsker(SweepSite site, SweepReading reading, SweepPrices prices, SweepTrail trail, IReadOnlyList<string> hiddenTitles)
{
    private readonly SweepSite site = site;
    private readonly SweepReading reading = reading;
    private readonly SweepPrices prices = prices;
    private readonly SweepTrail trail = trail;
    private readonly IReadOnlyList<string> hiddenTitles = hiddenTitles;

    /// <summary>What a guarded page says: from the site itself, or else as somebody who may read it.</summary>
    public async Task<SweepNote.Learned> LearnAsync(SweepTarget target, CancellationToken stop)
    {
        var requests = 0;
        foreach (var probe in site.Own is not null ? [site.Own] : site.Probes.Where(p => p.Via == SweepVia.Public && p.Cookie is not null))
        {
            requests++;
            if (await probe.AskAsync(site.Http, target.Address, stop) is { Status: 200 } seen && (seen.Text is not null || seen.Print != 0))
            {
                return new SweepNote.Learned(target.Address, seen.Text is null ? [] : Phrases.MarksOf(seen.Text), seen.Print)
                {
                    Sayings = seen.Text is null ? [] : Sayings.Of(seen.Text), IsData = seen.Text is not null && SweepReading.IsData(seen.Text),
                    Requests = requests,
                };
            }
        }

        return new SweepNote.Learned(target.Address, [], 0) { Requests = requests };
    }

    /// <summary>Asks for an address in every way.</summary>
    /// <param name="target">The address.</param>
    /// <param name="isBeside">Whether the catalogue does not know it.</param>
    /// <param name="isGuess">Whether nothing leads to it.</param>
    /// <param name="stop">Cancels it.</param>
    public async Task<SweepNote.Asked> AskAsync(SweepTarget target, bool isBeside, bool isGuess, CancellationToken stop)
    {
        var asking = new Asking(this, target, isGuess);
        var searches = PatientMatches.Watching();
        foreach (var probe in isGuess ? site.Probes.Where(SweepSite.IsOutsider) : Order())
        {
            await asking.AskAsync(probe, stop);
        }

        if (!isGuess && asking.IsWorthAskingAgain)
        {
            await asking.AskAsync(site.Probes[0], stop);
        }

        await asking.CompareAsync(stop);
        return new SweepNote.Asked(target.Address, isBeside, asking.IsAnswered, asking.Scripts)
        {
            Findings = asking.Findings, Read = asking.Read, Leads = [.. asking.Leads.Distinct(StringComparer.Ordinal)], Searches = asking.Searches,
            Prices = asking.Prices, Requests = asking.Requests, Unread = searches.HasGivenUp ? SweepUnread.Slow : asking.Unread,
        };
    }

    /// <summary>Asks for a closed address in other spellings. What is given out for a made-up address too says nothing.</summary>
    public async Task<SweepNote.Spelled> SpellAsync(SweepTarget target, CancellationToken stop)
    {
        var (requests, findings) = (0, new List<SweepFinding>());
        foreach (var probe in site.Probes.Where(SweepSite.IsOutsider))
        {
            if (site.PathOf(target.Address) is not { } path || site.Policy.Allows(probe.As.Visitor, path, Acts.Open, site.Now))
            {
                continue;
            }

            Sighting? madeUp = null;
            foreach (var spelling in SweepRules.Spellings(site.Policy, target))
            {
                requests++;
                var answer = await probe.AskAsync(site.Http, spelling, stop);
                if (answer.Status is < 200 or >= 300)
                {
                    continue;
                }

                // Some sites answer everything with one and the same page.
                requests += madeUp is null ? 1 : 0;
                madeUp ??= await probe.AskAsync(site.Http, $"{path.Sent.TrimEnd('/')}-{Guid.NewGuid():N}", stop);
                if (madeUp.Status != answer.Status || madeUp.Text != answer.Text)
                {
                    findings.Add(SweepRules.Spelled(site.Policy, target, spelling, probe.As.Key, probe.Via, answer.Status, site.Now));
                }
            }
        }

        return new SweepNote.Spelled(target.Address) { Findings = findings, Requests = requests };
    }

    /// <summary>Through a page cache, guest first and last: one that keeps what it was first given betrays itself in one order or the other.</summary>
    private IEnumerable<SweepProbe> Order() =>
        site.Probes.Any(p => p.Via == SweepVia.Cache) ? site.Probes.Concat(site.Probes.Reverse()) : site.Probes;

    /// <summary>Hidden items that data name by their keys.</summary>
    private IReadOnlyList<string> NamedIn(string text, Visitor visitor) => text.TrimStart('\uFEFF', ' ', '\n', '\r', '\t') is not ['{' or '[', ..] ? []
        : EntryFinder.NamedInData(Encoding.UTF8.GetBytes(text), key => site.Policy.Graph.WithKey(key)
            .Where(id => !site.Policy.Allows(visitor, id, Acts.List, site.Now)).Select(id => id.ToString()).FirstOrDefault());

    /// <summary>One address while it is asked for.</summary>
    private sealed class Asking(SweepAsker asker, SweepTarget target, bool isGuess)
    {
        private readonly SweepSite site = asker.site;
        private readonly List<(SweepProbe Probe, string Text)> given = [];
        private readonly HashSet<(SweepProbe, string)> read = [];
        private (string? Text, bool IsAsked) whole;

        public List<SweepFinding> Findings { get; } = [];

        public List<SweepRead> Read { get; } = [];

        public List<string> Leads { get; } = [];

        public List<ShownPrices> Prices { get; } = [];

        public List<string> Searches { get; } = [];

        public bool IsAnswered { get; private set; }

        public ulong? Scripts { get; private set; }

        public SweepUnread Unread { get; private set; }

        public int Requests { get; private set; }

        /// <summary>Whether somebody got what a guest did not: a cache on the way that keeps it gives it to the next guest.</summary>
        public bool IsWorthAskingAgain => site.Probes.Count > 1 && site.Probes.All(p => p.Via != SweepVia.Cache)
            && given.Find(g => g.Probe == site.Probes[0]) is var guest && given.Exists(g => !SweepSite.IsOutsider(g.Probe) && g.Text != guest.Text);

        public async Task AskAsync(SweepProbe probe, CancellationToken stop)
        {
            Requests++;
            var answer = await probe.AskAsync(site.Http, target.Address, stop);
            if (answer is { Status: 200, Text: not null })
            {
                given.AddRange(probe.Via == SweepVia.Public && given.TrueForAll(g => g.Probe != probe) ? [(probe, answer.Text)] : []);
            }

            var found = site.Judge(probe, target, probe.Via, answer).ToList();
            Findings.AddRange(found);
            if (answer is { IsGood: true, Text: not null } && probe.Via != SweepVia.Origin && asker.prices.HasAny(probe, target, answer.Text))
            {
                Prices.AddRange(asker.prices.In(probe, target, probe.Via, answer.Text, await WholeAsync(stop)));
            }

            if (SweepSite.IsOutsider(probe) && answer is { Status: 301 or 302 or 303 or 307 or 308, Location: { } to })
            {
                Leads.AddRange(asker.trail.New($"<a href=\"{to}\">", target.Address));
            }

            if (!SweepSite.IsOutsider(probe) || answer.Status == 0 || found.Exists(f => f.Kind == SweepKind.Reachable))
            {
                return;
            }

            Unread = answer is { IsGood: true, Unread: not SweepUnread.None } ? answer.Unread : Unread;
            if (answer is { Text: null, Print: > 0, IsGood: true })
            {
                Read.Add(asker.reading.ReadFile(target, probe.Via, answer));
            }
            else if (answer.Text is { } text && read.Add((probe, text)))
            {
                await (answer.IsGood ? MeetAsync(probe, text, answer.Headers, stop) : MeetRefusal(probe, answer));
            }

            Findings.AddRange(answer.IsGood && SweepLinks.IsSource(target.Address, answer.Text ?? answer.Within ?? "")
                ? [SweepRules.SourceAt(target, probe.Via)] : []);
        }

        /// <summary>Reads what came with a refusal, a redirect or an error. Of what is only guessed it says nothing that its page did not.</summary>
        private Task MeetRefusal(SweepProbe probe, Sighting answer)
        {
            if (!isGuess)
            {
                Read.Add(asker.reading.ReadRefusal(target, probe.Via, answer.Status, answer.Text!));
                // A redirect names where it leads: that is no telling.
                Findings.AddRange(answer.Status >= 400 ? site.JudgeRefusal(probe, target, answer) : []);
            }

            return Task.CompletedTask;
        }

        /// <summary>Looks at what others than guests got, beside what the site says there.</summary>
        public async Task CompareAsync(CancellationToken stop)
        {
            var others = given.Where(g => !SweepSite.IsOutsider(g.Probe)).ToList();
            if (others.Count > 0 && site.Own is not null)
            {
                FindHusks(await WholeAsync(stop), others);
            }
        }

        /// <summary>Reads what an outsider got, and notes where they can go on to from there.</summary>
        private async Task MeetAsync(SweepProbe probe, string text, string headers, CancellationToken stop)
        {
            IsAnswered = true;
            Leads.AddRange(asker.trail.New(headers + text, target.Address));
            if (asker.hiddenTitles.Count > 0 && text.Contains("<form", StringComparison.OrdinalIgnoreCase))
            {
                Searches.AddRange(SweepLinks.Searches(text, target.Address, asker.hiddenTitles));
            }

            Scripts ??= SweepReading.IsPage(text) ? PagesToDraw.ScriptsOf(text) : null;
            var said = probe.Via == SweepVia.Public && (target.Item is not null || MayHaveEntries(text)) ? await WholeAsync(stop) : null;
            Read.Add(asker.reading.Read(target, probe.Via, text, said));
            FindHusks(said, [(probe, text)]);
        }

        /// <summary>What the site itself says there: asked for once, whoever gets what of it.</summary>
        private async Task<string?> WholeAsync(CancellationToken stop)
        {
            if (!whole.IsAsked && site.Own is { } own)
            {
                Requests++;
                whole = ((await own.AskAsync(site.Http, target.Address, stop)).Text, true);
            }

            return whole.Text;
        }

        /// <summary>Whether something could be left out of it: an open page that has entries.</summary>
        private bool MayHaveEntries(string text) => !target.Guarded && text.AsSpan().TrimStart() is ['<', ..];

        /// <summary>What a page tells of something hidden though it has no link to it: compared with what the origin says of it.</summary>
        private void FindHusks(string? said, List<(SweepProbe Probe, string Text)> got)
        {
            RequestPath? PathOf(string href) =>
                href.StartsWith('/') && !href.StartsWith("//", StringComparison.Ordinal) ? site.PathOf(href.Split('#')[0]) : null;
            bool IsItem(string href) => PathOf(href) is { } path && site.Policy.ItemsAt(path).Any(i => i.Id != ItemId.Site);
            bool IsHidden(SweepProbe probe, string href) => SweepRules.IsHidden(site.Policy, probe.As.Visitor, href, site.Reserved, site.Now);
            // A page that leads to nothing hidden has no husk, and reading it whole takes its time.
            var mayHave = said?.TrimStart() is ['<', ..] && got.Exists(g => g.Text != said)
                && SweepLinks.From(said, target.Address, site.Hosts).Distinct(StringComparer.Ordinal).Any(a => got.Exists(g => IsHidden(g.Probe, a)));
            var husks = mayHave ? Husks.Of(said!, IsItem, href => PathOf(href) is not null) : null;
            foreach (var (probe, text) in got)
            {
                var left = husks?.LeftIn(text, href => IsHidden(probe, href)) ?? asker.NamedIn(text, probe.As.Visitor);
                if (left.Count > 0)
                {
                    Findings.Add(SweepRules.Left(target, probe.As.Key, probe.Via, left));
                }
            }
        }
    }
}
