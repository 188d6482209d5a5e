using System.Text;
using System.Text.Encodings.Web;
using WarySentinel.Core;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Pages;

/// <summary>The strip that says plainly through whose eyes one looks.</summary>
internal static class ViewpointBanner
{
    public static byte[] For(SeenAs viewpoint, ServiceOptions options, string here, Wordbook book)
    {
        var seeing = HtmlEncoder.Default.Encode(book.Of("view.seeing", viewpoint.Title));
        var leave = HtmlEncoder.Default.Encode($"{options.MachinePrefix}/view?leave=1&return_to={Uri.EscapeDataString(here)}");
        return Encoding.UTF8.GetBytes(
            "<div data-wary-viewpoint role=\"status\" style=\"position:sticky;top:0;z-index:2147483647;display:flex;gap:1.2em;"
            + "justify-content:center;padding:.55em 1em;"
            + "background:#e8a317;color:#221600;font:600 15px/1.3 system-ui,sans-serif\">"
            + $"<span>{seeing}</span>"
            + $"<a style=\"color:#221600;text-decoration:underline\" href=\"{leave}\">{HtmlEncoder.Default.Encode(book["view.leave"])}</a></div>");
    }
}
