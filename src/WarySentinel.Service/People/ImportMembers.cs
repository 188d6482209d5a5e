using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// Brings members in from a file: looked through first, then stored in the order of addresses, some thousands in a transaction. Each row is whole or not
/// there; what is begun again after it broke off goes on, as rows that are there already change nothing.
/// </summary>
public sealed class ImportMembers(
    PolicyHolder policies, PeopleLane people, Store store, SearchIndex searching, IMemberLetters letters, ServiceOptions options, TimeProvider time)
{
    private const long MostBytes = 4L << 30;
    private const int BatchSize = 8_000;

    /// <summary>Batches that are looked through or stored at a time.</summary>
    private const int InHand = 2;

    private const int MostRefusals = 200;
    private const int MostSamples = 50;

    /// <summary>Reads the file of a request and tells line by line what comes of it.</summary>
    public async Task<IResult> RunAsync(HttpContext http, bool dryRun, string[] map, string? source, string? domain)
    {
        var from = GrantSource.Stored("import", "members");
        if (!string.IsNullOrWhiteSpace(source) && !(GrantSource.TryParse("import:" + source, out from) && from.Reference.Length > 0))
        {
            return Problem.In("source", "source-form", source, string.Join(", ", GrantSource.Kinds.Skip(1))).ToHttp();
        }

        if (map.FirstOrDefault(m => !m.Contains('=', StringComparison.Ordinal)) is { } odd)
        {
            return Problem.In("map", "import-map", odd).ToHttp();
        }

        var sent = await ImportBody.ReadAsync(http, options.Data, MostBytes);
        await using var file = sent.File;
        if (file is null || LetterFault(sent.Letter) is not null)
        {
            return (sent.Problem ?? (file is null ? Admission.TooLarge(MostBytes) : LetterFault(sent.Letter)!)).ToHttp();
        }

        var caller = Caller.Of(http);
        var run = new Run(
            new MemberImport(policies.Current, from, caller.IsOwner, ForeignHashes.IsKnown, time.GetUtcNow()), caller.Name, dryRun)
        { Letter = sent.Letter };
        await Lines.StreamAsync<MemberImportLine>(http, (tell, stop) => AllAsync(run, file, map, domain, tell, stop), detail => run.Line("failed", detail));
        return Results.Empty;
    }

    private async Task AllAsync(Run run, Stream file, string[] map, string? domain, Action<MemberImportLine> tell, CancellationToken stop)
    {
        try
        {
            // The last "=" parts them: a column may have one in its name.
            var chosen = map.GroupBy(m => m[..m.LastIndexOf('=')], m => m[(m.LastIndexOf('=') + 1)..], StringComparer.Ordinal)
                .ToDictionary(g => g.Key, g => g.Last(), StringComparer.Ordinal);
            using var rows = run.File = new MemberCsv(file, chosen, domain);
            tell(run.Line("reading"));
            await using var order = await AddressOrder.ReadAsync(rows, options.Data, read => tell(run.Line("reading") with { Rows = read }), stop);
            run.Total = order.Count;
            await BatchesAsync(run, order, tell, stop);
            tell(run.Line("done"));
        }
        catch (MemberFileException fault)
        {
            tell(run.Line("failed", fault.Said.ToReader()));
        }
    }

    /// <summary>Batch by batch; while one is stored the next is looked through, and stored beside it where two can be: no address stands in both.</summary>
    private async Task BatchesAsync(Run run, AddressOrder order, Action<MemberImportLine> tell, CancellationToken stop)
    {
        var (storing, isFirst) = (new Queue<Task>(), !run.IsDry);
        await using var resting = run.IsDry ? null : await searching.RestAsync(run.Total, stop);
        try
        {
            foreach (var batch in order.Rows().Where(run.IsFirst).Select(r => r.Row).Chunk(BatchSize))
            {
                stop.ThrowIfCancellationRequested();
                await UntilFewerAsync(Math.Max(InHand, store.WritersAtOnce));
                var edits = await LookAsync(run, batch, stop);
                await UntilFewerAsync(store.WritersAtOnce);
                storing.Enqueue(Task.Run(() => StoreAsync(run, edits), CancellationToken.None));
                tell(run.Line("working"));
                if (isFirst)
                {
                    isFirst = false;
                    await storing.Peek();
                    await store.ManyMembersCameAsync();
                }
            }
        }
        finally
        {
            await Task.WhenAll(storing);
        }

        tell(run.Line("working"));
        if (!run.IsDry)
        {
            await store.EndOfManyMembersAsync();
        }

        async Task UntilFewerAsync(int most)
        {
            while (storing.Count >= most)
            {
                await storing.Dequeue();
            }
        }
    }

    /// <summary>What each row of a batch does.</summary>
    private async Task<List<(ImportRow Row, Edit<ImportStep> Edit)>> LookAsync(Run run, ImportRow[] batch, CancellationToken stop)
    {
        var there = await store.MembersByEmailAsync([.. batch.Select(r => EmailAddress.Normalise(r.Email)).OfType<string>()], stop);
        var answers = run.File?.HasAnswers == true ? await store.AnswersAsync([.. there.Values.Select(m => m.Id)], stop) : null;
        var edits = new List<(ImportRow Row, Edit<ImportStep> Edit)>();
        foreach (var row in batch)
        {
            var member = there.GetValueOrDefault(EmailAddress.Normalise(row.Email) ?? "");
            var step = Step(run, row, member, member is null ? null : answers?.GetValueOrDefault(member.Id));
            if (step.Problem is { } problem)
            {
                run.Refuse(row, problem);
            }
            else
            {
                edits.Add((row, step.Value));
            }
        }

        return edits;
    }

    private async Task StoreAsync(Run run, List<(ImportRow Row, Edit<ImportStep> Edit)> edits)
    {
        var changing = edits.Where(e => e.Edit.ToStore.Changes.Count > 0).ToList();
        if (!run.IsDry && changing.Count > 0)
        {
            var whole = new Edit<bool>(
                new Edit("member.import", run.Import.Source, [.. changing.SelectMany(e => e.Edit.ToStore.Changes)], null,
                    $"{changing.Count}")
                { Notes = [.. changing.Select(e => e.Edit.ToStore with { Changes = [] })] }, true);
            if (!(await TogetherAsync(whole, run)).IsGood)
            {
                foreach (var (row, _) in changing)
                {
                    await OneAsync(run, row);
                }

                changing.ForEach(c => edits.Remove(c));
            }
        }

        edits.ForEach(e => run.Count(e.Row, e.Edit.Value));
    }

    private async Task<Outcome<bool>> TogetherAsync(Edit<bool> whole, Run run)
    {
        try
        {
            var stored = await store.ApplyAsync(whole.ToStore, run.By, stop: CancellationToken.None);
            people.Tell(stored.News);
            return true;
        }
        catch (StoreRefusedException refused)
        {
            return refused.Problem;
        }
        catch (StoreMovedException)
        {
            return Problem.Of(ProblemKind.Conflict, "moved");
        }
    }

    /// <summary>What a row does, with the letter that tells of it: stored together, so that nobody is told twice, also where it is begun again.</summary>
    private Outcome<Edit<ImportStep>> Step(Run run, ImportRow row, Member? there, IReadOnlyList<FieldAnswer>? answered = null)
    {
        var step = run.Import.Step(row, there, answered);
        if (!step.IsGood || run.Letter is not { } letter || !IsTold(letter, step.Value.Value))
        {
            return step;
        }

        var (edit, done) = (step.Value.ToStore, step.Value.Value);
        return new Edit<ImportStep>(edit with { Changes = [.. edit.Changes, letters.Write(done.Member, letter.Subject!, letter.Text!)] }, done);
    }

    private static bool IsTold(MemberImportLetter letter, ImportStep step) => step.Member.Status is not (MemberStatus.Closed or MemberStatus.Suspended)
        && (step.Effect, letter.Tell) is (ImportEffect.Fresh, "fresh" or "all") or (ImportEffect.Changed, "changed" or "all");

    private Problem? LetterFault(MemberImportLetter? letter) => letter is null ? null
        : letter.Tell is not ("fresh" or "changed" or "all") ? Problem.In("tell", "not-one-of", letter.Tell, "fresh, changed, all")
        : letters.FaultOf(letter.Subject, letter.Text);

    /// <summary>A row by itself, against who is there by now: somebody else was faster with one of its batch.</summary>
    private async Task OneAsync(Run run, ImportRow row)
    {
        var outcome = await people.ChangeAsync(
            async () => Step(run, row, await store.MemberByNameAsync(EmailAddress.Normalise(row.Email)!)), run.By);
        if (outcome.Problem is { } problem)
        {
            run.Refuse(row, problem);
        }
        else
        {
            run.Count(row, outcome.Value);
        }
    }

    /// <summary>What has come of it so far; told by whoever looks through and by whoever stores.</summary>
    private sealed class Run(MemberImport import, string by, bool isDry)
    {
        private readonly Lock one = new();
        private readonly FirstLines<MemberImportRefusal> refusals = new(MostRefusals);
        private readonly FirstLines<MemberImportSample> samples = new(MostSamples);
        private (string Address, int Line) last;
        private readonly int[] counts = new int[3];
        private int refused;
        private int told;

        public MemberImport Import => import;

        public string By => by;

        public bool IsDry => isDry;

        public MemberCsv? File { get; set; }

        public int Total { get; set; }

        public MemberImportLetter? Letter { get; init; }

        /// <summary>Whether no row before it has its address; the second is refused with the line of the first.</summary>
        public bool IsFirst((string Address, ImportRow Row) next)
        {
            if (next.Address.Length == 0 || next.Address != last.Address)
            {
                last = (next.Address, next.Row.Line);
                return true;
            }

            Refuse(next.Row, Problem.In("email", "import-twice", next.Address, last.Line));
            return false;
        }

        public void Refuse(ImportRow row, Problem problem)
        {
            using var mine = one.EnterScope();
            refused++;
            refusals.Add(row.Line, () =>
            {
                var fault = problem.Faults.Count > 0 ? problem.Faults[0] : new Fault("email", problem.Detail);
                return new MemberImportRefusal(row.Line, row.Email, fault.Field, fault.Message.ToReader());
            });
        }

        public void Count(ImportRow row, ImportStep step)
        {
            using var mine = one.EnterScope();
            counts[(int)step.Effect]++;
            told += Letter is not null && IsTold(Letter, step) ? 1 : 0;
            if (step.Effect != ImportEffect.Same)
            {
                samples.Add(row.Line, () => new MemberImportSample(row.Line, step.Member.Email, step.Effect.ToString().ToLowerInvariant(), step.Says));
            }
        }

        public MemberImportLine Line(string stage, string? detail = null)
        {
            using var mine = one.EnterScope();
            var (same, fresh, changed) = (counts[0], counts[1], counts[2]);
            var shown = stage is "reading" or "working" ? ([], []) : (refusals.InOrder(), samples.InOrder());
            return new MemberImportLine(
                stage, same + fresh + changed + refused, fresh, changed, same, refused, shown.Item1, shown.Item2, File?.Columns ?? [],
                File?.EncodingName ?? "", File?.Delimiter ?? "", !isDry && fresh + changed > 0, told, detail, Total);
        }
    }
}

/// <summary>What is told of the first lines of a file, in whatever order they come.</summary>
/// <param name="most">So many.</param>
internal sealed class FirstLines<T>(int most)
{
    private readonly PriorityQueue<T, int> kept = new();

    /// <summary>Keeps what a line says, where it is among the first.</summary>
    public void Add(int line, Func<T> said)
    {
        if (kept.Count < most)
        {
            kept.Enqueue(said(), -line);
        }
        else if (kept.TryPeek(out _, out var latest) && -line > latest)
        {
            kept.DequeueEnqueue(said(), -line);
        }
    }

    /// <summary>All that is kept, the first line first.</summary>
    public List<T> InOrder() => [.. kept.UnorderedItems.OrderByDescending(k => k.Priority).Select(k => k.Element)];
}
