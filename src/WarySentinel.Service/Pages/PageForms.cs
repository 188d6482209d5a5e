using System.Text.Encodings.Web;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>Our forms as they stand inside the site's own pages, in the site's own dress.</summary>
public static class PageForms
{
    /// <summary>
    /// The form of that name: <c>sign-in</c>, <c>sign-out</c>, <c>forgotten</c>, <c>unlock</c>, <c>search</c> or <c>menu</c>; a link for <c>register</c>
    /// and every
    /// other page of ours; empty where there is none of that name, for whom it is of no use, and for a page that the site does without.
    /// </summary>
    /// <param name="name">The name.</param>
    /// <param name="visitor">Who looks; somebody signed in is offered signing out instead of signing in.</param>
    /// <param name="options">Knows where the forms are sent.</param>
    /// <param name="back">The page it stands on.</param>
    /// <param name="done">Where it leads when it is done, on this site; null to leave that to redirects.</param>
    /// <param name="links">Gives what the visitor's roles add to the menu.</param>
    /// <param name="book">The sentences in the visitor's language.</param>
    /// <param name="pages">What the owner set of pages.</param>
    public static string Of(string name, Visitor visitor, ServiceOptions options, string back, string? done, Func<IReadOnlyList<MenuLink>> links, Wordbook book,
        PageBook pages)
    {
        // The page that it stands on is where people are, not where they wanted to be: where its place says where it leads, that counts.
        var lands = $"""<input type="hidden" name="{(done is null ? "return_to" : "to")}" value="{E(done ?? back)}">""";
        var prefix = options.AccountPrefix;
        var to = E(back);
        return name switch
        {
            "sign-in" when !visitor.IsSignedIn => $"""
                <form class="wary-form wary-sign-in" method="post" action="{prefix}/sign-in">{lands}
                <label>{E(book["sign-in.name"])}
                <input name="name" autocomplete="username" required maxlength="254" autocapitalize="none" spellcheck="false"></label>
                <label>{E(book["sign-in.password"])} <input name="password" type="password" autocomplete="current-password" required maxlength="200"></label>
                <input type="hidden" name="keep" value="yes"><button type="submit">{E(book["sign-in.button"])}</button></form>
                """,
            "sign-in" or "sign-out" when visitor.IsSignedIn => $"""
                <form class="wary-form wary-sign-out" method="post" action="{prefix}/sign-out">
                <span>{E(book.Of("account.lead", visitor.Name ?? visitor.Email ?? ""))}</span>
                <button type="submit">{E(book["account.sign-out"])}</button></form>
                """,
            "unlock" => $"""
                <form class="wary-form wary-unlock" method="post" action="{prefix}/unlock"><input type="hidden" name="return_to" value="{to}">
                <label>{E(book["unlock.label"])}
                <input name="password" type="password" autocomplete="off" required maxlength="200" autocapitalize="none" spellcheck="false"></label>
                <button type="submit">{E(book["unlock.button"])}</button></form>
                """,
            "forgotten" when !visitor.IsSignedIn && pages.Has(name) => $"""
                <form class="wary-form wary-forgotten" method="post" action="{pages.AddressOf(prefix, "/password/forgotten")}">
                <label>{E(book["sign-in.name"])} <input name="name" autocomplete="username" required maxlength="254" autocapitalize="none"></label>
                <button type="submit">{E(book["forgotten.button"])}</button></form>
                """,
            "register" when !visitor.IsSignedIn && pages.Has(name) => $"""
                <a class="wary-register" href="{pages.AddressOf(prefix, "/register")}?return_to={Uri.EscapeDataString(done ?? back)}">
                {E(book["register.title"])}</a>
                """,
            "menu" => Menu(visitor, prefix, back, links, book, pages),
            "search" when pages.Has(name) => $"""
                <form class="wary-form wary-search" role="search" action="{E(pages.AddressOf(prefix, "/search"))}">
                <label>{E(book["search.label"])} <input type="search" name="q" maxlength="200"></label>
                <button type="submit">{E(book["search.button"])}</button></form>
                """,
            // Any other page of ours is a link to it, for whom it is of use.
            _ when VisitorPages.Find(name) is { MenuText: { } words } page && pages.Has(name) && page.Use != (visitor.IsSignedIn ? PageUse.Guests
                : PageUse.Members) => $"""<a class="wary-{name}" href="{E(pages.AddressOf(prefix, page.Path))}">{E(book[words])}</a>""",
            _ => "",
        };
    }

    /// <summary>The account menu, as the owner put it together: other for those inside, with the links of their roles.</summary>
    private static string Menu(Visitor visitor, string prefix, string back, Func<IReadOnlyList<MenuLink>> links, Wordbook book, PageBook pages)
    {
        var use = visitor.IsSignedIn ? PageUse.Members : PageUse.Guests;
        var shown = VisitorPages.All.Where(p => (p.Use == use || p.Use == PageUse.Everybody) && p.MenuText is not null && pages.Has(p.Key)
            && (pages.Find(p.Key).InMenu ?? p.IsInMenu));
        var own = visitor.IsSignedIn ? links().Select(l => Link(l.Address, l.Words)) : [];
        return $"""
            <nav class="wary-menu" aria-label="{E(book["menu.label"])}"><ul>{string.Concat(own.Concat(shown.Select(Entry)))}</ul></nav>
            """;

        string Entry(VisitorPage page) => page.Key == "sign-out"
            ? $"""
                <li><form class="wary-form wary-sign-out" method="post" action="{prefix}/sign-out">
                <button type="submit">{E(book[page.MenuText!])}</button></form></li>
                """
            : Link(pages.AddressOf(prefix, page.Path) + (use == PageUse.Guests ? "?return_to=" + Uri.EscapeDataString(back) : ""), book[page.MenuText!]);
    }

    private static string Link(string address, string words) => $"""<li><a href="{E(address)}">{E(words)}</a></li>""";

    private static string E(string text) => HtmlEncoder.Default.Encode(text);
}
