using System.Globalization;
using Microsoft.AspNetCore.Localization;
using WarySentinel.Core;
using Wire = WarySentinel.Contract;

namespace WarySentinel.Service.Web;

/// <summary>Whoever reads the answer to this request: here sentences are worded, in the language that the request asks for.</summary>
public static class Reader
{
    /// <summary>Only sentences follow the reader; numbers and dates are written as programs read them.</summary>
    public static readonly RequestLocalizationOptions Languages = new()
    {
        DefaultRequestCulture = new RequestCulture(CultureInfo.InvariantCulture, CultureInfo.GetCultureInfo("en")),
        SupportedCultures = [CultureInfo.InvariantCulture],
        SupportedUICultures = [.. Wordbook.OfStaff.Select(CultureInfo.GetCultureInfo)],
        ApplyCurrentCultureToResponseHeaders = true,
        RequestCultureProviders = [new AcceptLanguageHeaderRequestCultureProvider()],
    };

    private static readonly AsyncLocal<Wordbook?> Spoken = new();

    /// <summary>
    /// The sentences in the reader's language: what was chosen for a visitor (<see cref="Speak"/>), else what the request's <c>Accept-Language</c> says
    /// (RFC 9110 §12.5.4), carried by the culture of the work.
    /// </summary>
    public static Wordbook Book => Spoken.Value ?? Wordbook.For(CultureInfo.CurrentUICulture);

    /// <summary>From here on in this piece of work, sentences are of that book.</summary>
    public static void Speak(Wordbook book) => Spoken.Value = book;

    /// <summary>The sentence as the reader reads it.</summary>
    public static string ToReader(this Wording said) => said.In(Book);

    /// <summary>Why the guarded site cannot be reached, for whoever asks.</summary>
    public static Wire.OriginFaultView? ToWire(this OriginFault? fault) => fault is null ? null : new(fault.Said.ToReader(), fault.Since);

    /// <summary>Faults as the reader reads them.</summary>
    public static IReadOnlyList<Wire.Fault> ToReader(this IReadOnlyList<Fault> faults)
    {
        var book = Book;
        return [.. faults.Select(f => new Wire.Fault(f.Field, f.Message.In(book), f.Line, f.Column))];
    }
}
