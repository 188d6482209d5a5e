using System.Globalization;
using System.Text;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Members as a CSV file (RFC 4180), as a stream: all whom a filter finds, with columns that an import takes again.</summary>
public sealed class ExportMembers(Store store, PolicyHolder policies, TimeProvider time)
{
    private const int PageSize = 1000;

    private static readonly string[] Columns =
        ["email", "name", "user-name", "status", "roles", "groups", "plans", "joined", "language", "last-seen"];

    /// <summary>Writes the file.</summary>
    public async Task<IResult> RunAsync(HttpContext http, MemberListing listing)
    {
        var query = listing.ToFilter().ToQuery(policies.Current, null, PageSize);
        if (query.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.ContentType = "text/csv; charset=utf-8";
        http.Response.Headers.ContentDisposition = "attachment; filename=\"members.csv\"";
        await using var text = new StreamWriter(http.Response.Body, new UTF8Encoding(false), 64 * 1024);
        // A cell that a spreadsheet would reckon is kept a text (OWASP, “CSV Injection”).
        await using var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { InjectionOptions = InjectionOptions.Escape });
        // What they answered goes along, a column a field; a file stays where it is.
        List<string> fields = [.. FormBook.Of(policies.Current).Fields.Where(f => f.Kind != FieldKind.File).Select(f => f.Key)];
        foreach (var column in Columns.Concat(fields.Select(f => "answer." + f)))
        {
            csv.WriteField(column);
        }

        await csv.NextRecordAsync();
        await WriteAllAsync(csv, query.Value, fields, http.RequestAborted);
        return Results.Empty;
    }

    private async Task WriteAllAsync(CsvWriter csv, MemberQuery asked, List<string> fields, CancellationToken stop)
    {
        while (true)
        {
            var (page, now) = (await store.MembersAsync(asked, stop), time.GetUtcNow());
            var answers = fields.Count == 0 ? null : await store.AnswersAsync([.. page.Select(m => m.Id)], stop);
            foreach (var member in page)
            {
                Write(csv, member, now);
                foreach (var field in fields)
                {
                    csv.WriteField(string.Join('|', answers?.GetValueOrDefault(member.Id)?.FirstOrDefault(a => a.Field == field)?.Values ?? []));
                }

                await csv.NextRecordAsync();
            }

            await csv.FlushAsync();
            if (page.Count < PageSize)
            {
                return;
            }

            asked = asked with { After = asked.PlaceOf(page[^1]) };
        }
    }

    private static void Write(CsvWriter csv, Member member, DateTimeOffset now)
    {
        string Of(FactKind kind) => string.Join('|', member.Grants.Where(g => g.Kind == kind && g.IsInForce(now)).Select(g => g.Key).Distinct());
        csv.WriteField(member.Email);
        csv.WriteField(member.Name);
        csv.WriteField(member.UserName);
        csv.WriteField(member.Status.ToString().ToLowerInvariant());
        csv.WriteField(Of(FactKind.Role));
        csv.WriteField(Of(FactKind.Group));
        csv.WriteField(Of(FactKind.Plan));
        csv.WriteField(SiteDates.Write(member.CreatedAt));
        csv.WriteField(member.Language);
        csv.WriteField(member.SeenAt is { } seen ? SiteDates.Write(seen) : "");
    }
}
