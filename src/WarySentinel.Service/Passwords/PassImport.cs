using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Passwords;
using WarySentinel.Core;
using WarySentinel.Core.Passwords;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Passwords;

/// <summary>Passes from a file: all of them, or none where something is wrong with any. Their passwords are told in the answer, and nowhere else.</summary>
public sealed class PassImport(PassDesk desk, PolicyHolder policies, ServiceOptions options, TimeProvider time)
{
    private const int MostBytes = 4 << 20;
    private const int MostRows = 5000;
    private const int MostFaults = 50;

    private static readonly Dictionary<string, string> Columns = new(StringComparer.Ordinal)
    {
        ["kind"] = "kind", ["pass"] = "kind", ["holder"] = "holder", ["for"] = "holder", ["name"] = "name", ["signinname"] = "name", ["email"] = "email",
        ["mail"] = "email", ["from"] = "from", ["start"] = "from", ["until"] = "until", ["end"] = "until", ["mostuses"] = "mostUses", ["uses"] = "mostUses",
        ["mostnetworks"] = "mostNetworks", ["networks"] = "mostNetworks", ["send"] = "send",
    };

    /// <summary>Maps it.</summary>
    public void Map(RouteGroupBuilder api) =>
        api.MapPost("/passes/import", (HttpContext http, bool? dryRun) => InvokeAsync(http, dryRun ?? false)).Requires("people").WithTags("Passes")
            .Accepts<string>("text/csv").Takes(MostBytes);

    private async Task<Results<Ok<PassImportView>, ProblemHttpResult>> InvokeAsync(HttpContext http, bool dryRun)
    {
        await using var file = await Spool.ReadAsync(http, options.Data, MostBytes);
        if (file is null)
        {
            return Problem.Of(ProblemKind.TooLarge, "hook-large", MostBytes / 1024).ToHttp();
        }

        using var text = new StreamReader(file, new UTF8Encoding(false), true);
        var read = Read(await text.ReadToEndAsync(http.RequestAborted));
        if (read.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var rows = read.Value;
        var faults = await FaultsOfAsync(rows, http.RequestAborted);
        if (dryRun || faults.Count > 0)
        {
            return TypedResults.Ok(new PassImportView(false, rows.Count, [], faults));
        }

        var made = await desk.AddManyAsync([.. rows.Select(r => (r.Draft.ToCore(), r.Draft.Send))], Caller.Of(http).Name);
        return made.Problem is { } refused ? refused.ToHttp() : TypedResults.Ok(new PassImportView(
            true, rows.Count, [.. made.Value.Select(m => m.Pass.ToWire(policies.Current, time.GetUtcNow(), 0, m))], []));
    }

    private async Task<List<PassRowFault>> FaultsOfAsync(List<(int Line, PassDraft Draft, List<Fault> Odd)> rows, CancellationToken stop)
    {
        var (faults, names) = (new List<PassRowFault>(), new HashSet<string>(StringComparer.Ordinal));
        foreach (var (line, draft, odd) in rows)
        {
            var terms = draft.ToCore();
            var name = Pass.NormaliseName(terms.Name ?? "");
            var found = PassCommands.Add(policies.Current, terms, new FreshPass(Guid.Empty, "23456", ""), time.GetUtcNow()).Problem?.Faults ?? [];
            var taken = await desk.FaultOfAsync(terms, stop) ?? (name.Length > 0 && !names.Add(name) ? Problem.In("name", "pass-exists", name) : null);
            var unsent = draft.Send && string.IsNullOrWhiteSpace(draft.Email) ? Problem.In("email", "pass-send") : null;
            faults.AddRange(odd.Concat(found).Concat(taken?.Faults ?? []).Concat(unsent?.Faults ?? [])
                .Select(f => new PassRowFault(line, f.Field, f.Message.ToReader())));
            if (faults.Count >= MostFaults)
            {
                break;
            }
        }

        return faults;
    }

    private static Outcome<List<(int Line, PassDraft Draft, List<Fault> Odd)>> Read(string text)
    {
        using var csv = new CsvReader(new StringReader(text), new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = CsvSign.Of(text.Split('\n')[0]), TrimOptions = TrimOptions.Trim, BadDataFound = null, MissingFieldFound = null, MaxFieldSize = 1000,
        });
        try
        {
            if (!csv.Read() || !csv.ReadHeader())
            {
                return Problem.In("file", "pass-file-empty");
            }

            var places = new Dictionary<string, int>(StringComparer.Ordinal);
            foreach (var (column, place) in csv.HeaderRecord!.Select((c, n) => (c, n)))
            {
                if (Columns.TryGetValue(new string([.. column.ToLowerInvariant().Where(char.IsLetterOrDigit)]), out var field))
                {
                    places.TryAdd(field, place);
                }
            }

            var missing = new[] { "kind", "holder" }.Where(f => !places.ContainsKey(f)).ToList();
            return missing.Count > 0 ? Problem.In("file", "pass-file-columns", string.Join(", ", missing)) : Rows(csv, places);
        }
        catch (CsvHelperException)
        {
            return Problem.In("file", "pass-file", csv.Parser.RawRow);
        }
    }

    private static Outcome<List<(int Line, PassDraft Draft, List<Fault> Odd)>> Rows(CsvReader csv, Dictionary<string, int> places)
    {
        var rows = new List<(int, PassDraft, List<Fault>)>();
        while (csv.Read())
        {
            if (rows.Count == MostRows)
            {
                return Problem.In("file", "pass-file-many", MostRows);
            }

            var odd = new List<Fault>();
            string? Said(string field) => places.TryGetValue(field, out var at) && csv.TryGetField<string>(at, out var said) ? PlainText.OrNull(said) : null;
            int? Number(string field) => Said(field) is not { } said ? null
                : int.TryParse(said, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : Odd(field, said);
            int? Odd(string field, string said)
            {
                odd.Add(new Fault(field, Wording.Of("problem.pass-file-number", said)));
                return null;
            }

            var draft = new PassDraft(
                Said("kind"), Said("holder"), Said("name"), Said("email"), Said("from"), Said("until"), Number("mostUses"), Number("mostNetworks"),
                Said("send")?.ToLowerInvariant() is "yes" or "true" or "1");
            rows.Add((csv.Parser.RawRow, draft, odd));
        }

        return rows.Count == 0 ? Problem.In("file", "pass-file-empty") : rows;
    }
}
