using System.Text.Json;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;
using Microsoft.OpenApi;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>What is sent to an import: the file alone, or the file and who is told of it, as the parts <c>file</c> and <c>letter</c> (RFC 7578).</summary>
/// <param name="File">The file; null where it is too large, or there is none.</param>
/// <param name="Letter">Who is told; null for nobody.</param>
/// <param name="Problem">What is wrong with the parts.</param>
internal sealed record ImportBody(FileStream? File, MemberImportLetter? Letter, Problem? Problem = null)
{
    private const int MostLetterBytes = 64 * 1024;

    /// <summary>Reads it, the file past memory.</summary>
    public static async Task<ImportBody> ReadAsync(HttpContext http, string folder, long mostBytes)
    {
        if (!MediaTypeHeaderValue.TryParse(http.Request.ContentType, out var type)
            || !type.MediaType.Equals("multipart/form-data", StringComparison.OrdinalIgnoreCase))
        {
            return new ImportBody(await Spool.ReadAsync(http, folder, mostBytes), null);
        }

        var (file, letter) = ((FileStream?)null, (MemberImportLetter?)null);
        try
        {
            Spool.Bound(http, mostBytes);
            var reader = new MultipartReader(HeaderUtilities.RemoveQuotes(type.Boundary).Value ?? "", http.Request.Body) { BodyLengthLimit = mostBytes };
            while (await reader.ReadNextSectionAsync(http.RequestAborted) is { } part)
            {
                switch (part.GetContentDispositionHeader()?.Name.Value?.Trim('"'))
                {
                    case "file" when file is null:
                        file = await Spool.TakeAsync(part.Body, folder, http.RequestAborted);
                        break;
                    case "letter" when letter is null:
                        letter = await LetterAsync(part.Body, http.RequestAborted);
                        break;
                }
            }

            return new ImportBody(file, letter, file is null ? Problem.In("file", "import-parts") : null);
        }
        catch (Exception fault) when (fault is InvalidDataException or JsonException or IOException)
        {
            await (file?.DisposeAsync() ?? ValueTask.CompletedTask);
            return new ImportBody(null, null, Problem.In("file", "import-parts"));
        }
    }

    /// <summary>Says what the parts are, where an operation takes such a form.</summary>
    public static async Task DescribeAsync(OpenApiOperation operation, OpenApiOperationTransformerContext context, CancellationToken stop)
    {
        if (context.Document is not { } document || operation.RequestBody?.Content?.TryGetValue("multipart/form-data", out var form) != true || form is null)
        {
            return;
        }

        document.AddComponent(nameof(MemberImportLetter), await context.GetOrCreateSchemaAsync(typeof(MemberImportLetter), null, stop));
        form.Schema = new OpenApiSchema
        {
            Type = JsonSchemaType.Object,
            Required = new HashSet<string> { "file" },
            Properties = new Dictionary<string, IOpenApiSchema>
            {
                ["file"] = new OpenApiSchema { Type = JsonSchemaType.String, Format = "binary" },
                ["letter"] = new OpenApiSchemaReference(nameof(MemberImportLetter), document),
            },
        };
    }

    private static async Task<MemberImportLetter?> LetterAsync(Stream from, CancellationToken stop)
    {
        var bytes = new MemoryStream();
        var buffer = new byte[4096];
        for (int read; (read = await from.ReadAsync(buffer, stop)) > 0;)
        {
            if (bytes.Length + read > MostLetterBytes)
            {
                throw new InvalidDataException("The letter is too long.");
            }

            bytes.Write(buffer, 0, read);
        }

        return JsonSerializer.Deserialize<MemberImportLetter>(bytes.ToArray(), ApiJson.Options);
    }
}
