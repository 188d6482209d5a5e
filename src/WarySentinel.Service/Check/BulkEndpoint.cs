using System.Buffers;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Contract;
using WarySentinel.Contract.Check;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Check;

/// <summary>Many questions in one call: CSV or JSON lines in, a line of JSON for each out, in the same order. Neither side is held in memory.</summary>
public sealed class BulkEndpoint(PolicyHolder policies, Questions questions, ServiceOptions options)
{
    private const int MostVisitors = 20_000;
    private const int FlushedEvery = 500;
    private static readonly string[] Columns = ["visitor", "act", "item", "path", "at"];
    private static readonly JsonSerializerOptions Read = new(JsonSerializerDefaults.Web)
    { UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow, MaxDepth = 4 };

    /// <summary>Answers a file of questions.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        var stop = http.RequestAborted;
        await using var body = await Spool.ReadAsync(http, options.Data, options.ImportMaxBytes);
        var wrong = body is null ? Admission.TooLarge(options.ImportMaxBytes) : await ImportText.CheckAsync(body, stop);
        if (wrong is not null)
        {
            await wrong.ToHttp().ExecuteAsync(http);
            return;
        }

        http.Response.ContentType = "application/x-ndjson";
        var policy = policies.Current;
        var known = new Dictionary<string, Outcome<SeenAs>>(StringComparer.Ordinal);
        var isCsv = http.Request.ContentType?.Contains("csv", StringComparison.OrdinalIgnoreCase) == true;
        using var text = ImportText.ReaderOf(body!);
        var count = 0;
        foreach (var (line, question, problem) in isCsv ? OfCsv(text) : OfJson(text))
        {
            known = known.Count < MostVisitors ? known : new Dictionary<string, Outcome<SeenAs>>(StringComparer.Ordinal);
            var answer = problem is null ? await AnswerAsync(line, question!, policy, known, stop)
                : new BulkLine(line, null, null, null, null, null, null, null, problem.Code, problem.Detail.ToReader());
            JsonSerializer.Serialize(http.Response.BodyWriter.AsStream(true), answer, ApiJson.Options);
            http.Response.BodyWriter.Write("\n"u8);
            if (++count % FlushedEvery == 0)
            {
                await http.Response.BodyWriter.FlushAsync(stop);
            }
        }

        await http.Response.BodyWriter.FlushAsync(stop);
    }

    private async Task<BulkLine> AnswerAsync(int line, Question question, Policy policy, Dictionary<string, Outcome<SeenAs>> known, CancellationToken stop)
    {
        var asked = await questions.AskAsync(question, policy, known, stop);
        var plain = new BulkLine(line, question.Visitor ?? "guest", question.Act ?? "open", question.Item ?? question.Path, question.At, null, null, null,
            null, null);
        return asked.Match(
            a => plain with
            {
                Allowed = a.Decision.Allowed,
                Answer = a.Decision.Refusal is { } r ? AnswerNames.NameOf(r.Answer)
            : null,
                Gate = a.Decision.Refusal?.Gate.Key
            },
            p => plain with { Code = p.Code, Detail = p.Detail.ToReader() });
    }

    private static IEnumerable<(int Line, Question? Question, Problem? Problem)> OfJson(StreamReader text)
    {
        var number = 0;
        while (text.ReadLine() is { } line)
        {
            number++;
            if (!string.IsNullOrWhiteSpace(line))
            {
                yield return (number, TryRead(line, out var question, out var fault) ? question : null, fault);
            }
        }
    }

    private static bool TryRead(string line, out Question? question, out Problem? problem)
    {
        (question, problem) = (null, null);
        try
        {
            question = JsonSerializer.Deserialize<Question>(line, Read);
        }
        catch (JsonException fault)
        {
            problem = Problem.In("line", "bulk-line", fault.Message.Split(" Path:")[0]);
        }

        problem = question is null ? problem ?? Problem.In("line", "bulk-line", "null") : null;
        return problem is null;
    }

    private static IEnumerable<(int Line, Question? Question, Problem? Problem)> OfCsv(StreamReader text)
    {
        using var csv = new CsvReader(text, new CsvConfiguration(CultureInfo.InvariantCulture)
        { TrimOptions = TrimOptions.Trim, BadDataFound = null, MissingFieldFound = null }, true);
        var header = csv.Read() && csv.ReadHeader() ? csv.HeaderRecord!.Select(h => h.Trim().ToLowerInvariant()).ToArray() : [];
        if (header.Length == 0 || header.FirstOrDefault(h => !Columns.Contains(h)) is not null || !(header.Contains("item") || header.Contains("path")))
        {
            yield return (1, null, Problem.In("header", "bulk-header", string.Join(", ", Columns)));
            yield break;
        }

        string? At(string column) => Array.IndexOf(header, column) is >= 0 and var place && place < csv.Parser.Count
            && csv.GetField(place) is { Length: > 0 } field ? field : null;
        for (var line = csv.Parser.RawRow + 1; csv.Read(); line = csv.Parser.RawRow + 1)
        {
            yield return csv.Parser.Count > header.Length
                ? (line, null, Problem.In("row", "bulk-line", Wording.Of("import.fields", csv.Parser.Count, header.Length)))
                : (line, new Question(At("visitor"), At("act"), At("item"), At("path"), At("at")), null);
        }
    }
}
