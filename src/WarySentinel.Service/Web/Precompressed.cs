using System.Diagnostics.CodeAnalysis;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Extensions.FileProviders;

namespace WarySentinel.Service.Web;

/// <summary>
/// Sends of the console's files what was compressed when it was built, where the browser takes it: brotli (RFC 7932) first, then gzip (RFC 1952). Which is
/// taken is said by <c>Accept-Encoding</c> (RFC 9110 §12.5.3).
/// </summary>
internal sealed class Precompressed(RequestDelegate next, IFileProvider files)
{
    private static readonly (string Coding, string Ending)[] Codings = [("br", ".br"), ("gzip", ".gz")];

    /// <summary>Looks for the compressed form of what is asked for.</summary>
    public Task InvokeAsync(HttpContext http)
    {
        var request = http.Request;
        if (HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method))
        {
            var takes = request.GetTypedHeaders().AcceptEncoding;
            foreach (var (coding, ending) in Codings)
            {
                if (takes.Any(t => t.Value.Equals(coding, StringComparison.OrdinalIgnoreCase) && t.Quality is not 0)
                    && files.GetFileInfo(request.Path.Value + ending).Exists)
                {
                    request.Path = request.Path.Value + ending;
                    break;
                }
            }
        }

        return next(http);
    }

    /// <summary>Says of a file how it is coded, and that others may get it otherwise.</summary>
    public static void Mark(StaticFileResponseContext context)
    {
        var headers = context.Context.Response.Headers;
        headers.Vary = "Accept-Encoding";
        foreach (var (coding, ending) in Codings)
        {
            if (context.File.Name.EndsWith(ending, StringComparison.Ordinal))
            {
                headers.ContentEncoding = coding;
            }
        }
    }

    /// <summary>The type of a file, compressed or not.</summary>
    public sealed class Types : IContentTypeProvider
    {
        private readonly FileExtensionContentTypeProvider plain = new();

        /// <inheritdoc/>
        public bool TryGetContentType(string subpath, [MaybeNullWhen(false)] out string contentType)
        {
            var ending = Codings.Select(c => c.Ending).FirstOrDefault(e => subpath.EndsWith(e, StringComparison.Ordinal));
            return plain.TryGetContentType(ending is null ? subpath : subpath[..^ending.Length], out contentType);
        }
    }
}
